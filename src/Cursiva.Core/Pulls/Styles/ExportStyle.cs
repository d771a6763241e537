using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>An export is submitted, waited for and downloaded.</summary>
internal sealed class ExportStyle : ListingStyle
{
    public override string Words(Pull pull) => pull.Export!.IsWhole ? "an export job and its file" : "an export job and its parts";

    public override Task RunAsync(StrandRun run, CancellationToken cancel) => new ExportedListing(run).RunAsync(cancel);
}
