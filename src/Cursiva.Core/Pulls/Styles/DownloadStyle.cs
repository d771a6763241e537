using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>The answer is a file that is kept.</summary>
internal sealed class DownloadStyle : ListingStyle
{
    public override string Words(Pull pull) => $"files kept as {pull.DownloadTo?.Text}";

    public override Task RunAsync(StrandRun run, CancellationToken cancel) => new DownloadedFile(run).RunAsync(cancel);
}
