using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>The answer is one stream of rows.</summary>
internal sealed class StreamStyle : ListingStyle
{
    public override string Words(Pull pull) => $"one stream ({pull.Paging.Stream.ToString().ToLowerInvariant()})";

    public override Task RunAsync(StrandRun run, CancellationToken cancel) => new StreamedListing(run).RunAsync(cancel);
}
