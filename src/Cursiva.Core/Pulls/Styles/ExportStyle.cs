using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Pulls;

/// <summary>An export is submitted, waited for and downloaded.</summary>
internal sealed class ExportStyle : ListingStyle
{
    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(_ => new ExportStyle()) { IsChosenBy = pull => pull.Has(PullKeys.Export) };

    public override string Words(Pull pull) => pull.Export!.IsWhole ? "an export job and its file" : "an export job and its files";

    public override Task RunAsync(StrandRun run, CancellationToken cancel) => new ExportedListing(run).RunAsync(cancel);
}
