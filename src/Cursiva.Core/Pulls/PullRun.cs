using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>Fills one pull: its only strand, or as many at a time as the job says.</summary>
/// <param name="feed">Makes its strands, where it has several.</param>
/// <param name="hasParent">Whether an earlier pull's rows make them.</param>
internal sealed class PullRun(PullContext context, StrandFeed feed, bool hasParent)
{
    private Pull Pull => context.Pull;

    private PullServices Services => context.Services;

    /// <summary>Lands whatever is still missing.</summary>
    public async Task RunAsync(CancellationToken cancel)
    {
        using (feed)
        {
            await Task.Yield();
            if (!Pull.Repeats)
                await StrandAsync(Strand.Only, cancel);
            else
                await StrandsAsync(cancel);
            foreach (var child in context.Feeds.Where(child => child != feed))
                child.ParentEnded();
            feed.CheckCarried();
            (await context.PlacesAsync()).Check();
            Services.Watch.PullEnded(context.Progress);
        }
    }

    private async Task StrandsAsync(CancellationToken cancel)
    {
        if (Pull.Per is null)
            feed.AddOnly();
        else if (!hasParent)
            await FeedRowsAsync(cancel);
        if (!hasParent)
            feed.ParentEnded();

        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var workers = Enumerable.Range(0, context.Hands?.AtATime ?? Pull.Parallel).Select(_ => WorkAsync(stop.Token)).ToList();
        try
        {
            // The first failure stops the others; it is the one that is told.
            await foreach (var ended in Task.WhenEach(workers))
                await ended;
        }
        finally
        {
            await stop.CancelAsync();
            await Task.WhenAll(workers).ContinueWith(_ => { }, TaskScheduler.Default);
        }
    }

    // A list, file or query: its rows are landed like those of a pull.
    private async Task FeedRowsAsync(CancellationToken cancel)
    {
        var rows = Services.Landing.Open(Pull.Per!.LandedAs(Pull.Name));
        new PerRows(Services).Land(Pull, rows, Services.Job.Pulls.TakeWhile(other => other.Name != Pull.Name), cancel);
        await Services.Landing.CommitAsync(cancel);
        foreach (var page in rows.Committed())
            feed.Add(rows, Strand.Only, page);
    }

    private async Task WorkAsync(CancellationToken cancel)
    {
        while (await feed.NextAsync(cancel) is { } strand)
        {
            await StrandAsync(strand, cancel);
            feed.StrandEnded();
        }
    }

    private async Task StrandAsync(Strand strand, CancellationToken cancel)
    {
        context.Progress.StrandBegan();
        var begun = context.Landing.Strand(strand.Key);
        if (begun?.Skip is null && !HasEnded(strand))
        {
            if (begun is null && strand != Strand.Only)
                context.Landing.Put(strand.Landed(Pull.Name));
            var skipped = context.Hands is { } hands
                ? await hands.FetchAsync(context, strand, cancel)
                : await new StrandFetch(context).RunAsync(strand, cancel);
            begun = skipped is { } skip ? strand.Landed(Pull.Name) with { Skip = skip } : null;
            if (begun is not null)
            {
                context.Landing.Put(begun);
                Services.Watch.Skipped(context.Progress, strand.Title, begun.Skip!.Because);
            }
        }

        if (Pull.Window is not null && context.Landing.Last(strand.Key)?.Ended == Ending.Halved.Code)
            feed.Halve(strand);
        context.Landing.Forget(strand.Key);
        context.Progress.StrandEnded(begun?.Skip is not null);
    }

    // What other machines have begun is not cut back here.
    private bool HasEnded(Strand strand) =>
        context.Hands is null ? context.Landing.Last(strand.Key) is { Next: null } : context.Landing.HasEnded(strand.Key);
}
