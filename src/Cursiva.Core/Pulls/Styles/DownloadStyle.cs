using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Pulls;

/// <summary>The answer is a file that is kept.</summary>
internal sealed class DownloadStyle : ListingStyle
{
    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(_ => new DownloadStyle()) { IsChosenBy = pull => pull.Has(PullKeys.Download) };

    public override string Words(Pull pull) => $"files saved as {pull.DownloadTo?.Text}";

    public override Task RunAsync(StrandRun run, CancellationToken cancel) => new DownloadedFile(run).RunAsync(cancel);
}
