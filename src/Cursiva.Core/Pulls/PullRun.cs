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
            context.Places.Check();
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
        var workers = Enumerable.Range(0, Pull.Parallel).Select(_ => WorkAsync(stop.Token)).ToList();
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
        if (begun?.Skip is null && context.Landing.Last(strand.Key) is not { Next: null })
        {
            if (begun is null && strand != Strand.Only)
                context.Landing.Put(strand.Landed(Pull.Name));
            begun = await FetchAsync(strand, cancel) is { } skip ? strand.Landed(Pull.Name) with { Skip = skip } : null;
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

    // What an API says of one tenant, depot or document, and not of all of them.
    private static bool MayBeOfOneStrand(int status) => status is 402 or 403 or 404 or 409 or 410 or 422 or 423 or 424 or 451;

    // Why the strand is skipped; null when it was fetched.
    private async Task<LandedSkip?> FetchAsync(Strand strand, CancellationToken cancel)
    {
        try
        {
            string? Value(string name) => strand.Values.Text(name) ?? Services.Inputs.GetValueOrDefault(name);
            var client = await Services.Client(Pull, Value, cancel);
            var kept = Services.Past.Mark(Pull, strand.Values.ToJson());
            var mark = Pull.Incremental is { } incremental
                ? (kept is null ? incremental.First : Marks.From(kept, incremental.Overlap))
                : null;
            var delta = Pull.Paging.Delta is null || context.WasRestarted(strand) ? null : kept;
            var noted = Submission.Noted(context.Landing.Last(strand.Key)?.Next) is { } id
                ? strand with { Values = strand.Values.With(ExportSteps.Submission, id) }
                : strand;
            var requests = await StrandRequests.OpenAsync(
                Pull, client, Services.Inputs, noted, mark, delta, Services.Secrets, context.Schemas, cancel);
            var run = new StrandRun(context, strand, client, requests) { AsksForChanges = delta is not null };
            await ListingStyle.Of(Pull.Paging).RunAsync(run, cancel);
            return run.Skip;
        }
        catch (StrandSkip skip)
        {
            return skip.Skip;
        }
        catch (RefusedException error) when (SkipRules.Match(Pull.SkipWhen, error.Refusal) is { } rule)
        {
            return new LandedSkip(
                0,
                rule.Because ?? error.Refusal.Cause ?? "the sign-in was refused",
                Services.Redactor.Clean(error.Refusal.Quote ?? error.Refusal.What),
                Services.Redactor.Clean(error.Refusal.Request ?? ""));
        }
        catch (RefusedException error) when (Pull.Repeats && error.Refusal.Status is { } status && MayBeOfOneStrand(status) && error.Refusal.NextStep?.Contains("skip-when", StringComparison.Ordinal) != true)
        {
            var rule = Pull.SkipWhen.Count == 0
                ? $"skip-when: [{{ status: {status} }}] to pull '{Pull.Name}'"
                : $"{{ status: {status} }} to skip-when: of pull '{Pull.Name}'";
            var skip = $"if this strand may be missing, add {rule} and run again";
            throw new RefusedException(
                error.Refusal with { NextStep = error.Refusal.NextStep is { } next ? $"{next}; {skip}" : skip }, error);
        }
        catch (JobMistakesException error)
        {
            throw new RefusedException(new Refusal(Outcome.JobFileWrong, $"a strand of pull '{Pull.Name}' ({strand.Title}) fills in something that does not fit: {error.Mistakes[0].Found}")
            {
                NextStep = error.Mistakes[0].Right,
            }, error);
        }
    }
}
