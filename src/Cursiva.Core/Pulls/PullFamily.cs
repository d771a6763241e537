using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// A pull and those that are repeated for its rows: they run at the same time, since strands start while the pull that they are
/// made from is still paging.
/// </summary>
public sealed class PullFamily(IReadOnlyList<Pull> pulls, PullServices services)
{
    private static readonly TimeSpan s_longestGoodbye = TimeSpan.FromSeconds(1);

    private readonly HashSet<(string Pull, string Strand)> _restarted = [];

    /// <summary>The families of a job, in the order in which they run.</summary>
    public static IReadOnlyList<IReadOnlyList<Pull>> Of(IReadOnlyList<Pull> pulls)
    {
        var families = new List<List<Pull>>();
        foreach (var pull in pulls)
        {
            if (pull.Per?.Pull is { } parent && families.Find(family => family.Exists(other => other.Name == parent)) is { } family)
                family.Add(pull);
            else
                families.Add([pull]);
        }

        return families;
    }

    /// <summary>Fills every pull of the family, from where it stands.</summary>
    /// <param name="progress">Takes the progress of every pull.</param>
    /// <exception cref="RefusedException">An API refused, or a page is not what a pull expects.</exception>
    public async Task RunAsync(Action<PullProgress> progress, CancellationToken cancel)
    {
        while (true)
        {
            var works = pulls.Select(pull => new PullContext(pull, services)).ToList();
            foreach (var context in works)
                progress(context.Progress);
            try
            {
                await RunAsync(works, cancel);
                return;
            }
            catch (StrandRestart restart)
            {
                services.Warn($"{restart.Message}; fetched again from its first page");
                _restarted.Add((restart.Context.Pull.Name, restart.Strand.Key));
                List<string> below = [.. Below(restart.Context.Pull).Select(pull => pull.Name)];
                if (services.Hands is { } hands)
                    await hands.WithdrawAsync(restart.Context.Pull.Name, restart.Strand.Key, below, cancel);
                await services.Landing.SetAsideAsync(restart.Context.Landing, restart.Strand.Key, below);

                // It will not ask for changes alone again, so what earlier runs brought may hold what is gone by now.
                if (restart.Context.Pull.Paging.Delta is not null)
                    await services.Anew(restart.Context.Pull, restart.Strand.Values.ToJson());
            }
            finally
            {
                // Whatever ended the pulls, what has arrived is kept; a stop waits for no other machine.
                await CommitAsync(cancel.IsCancellationRequested);
                foreach (var context in works)
                    context.Dispose();
            }
        }
    }

    private async Task CommitAsync(bool isStopping)
    {
        using var share = new CancellationTokenSource();
        if (isStopping)
            share.CancelAfter(s_longestGoodbye);
        try
        {
            await services.Landing.CommitAsync(CancellationToken.None, share.Token);
        }
        catch (OperationCanceledException) when (isStopping)
        {
            // What the machines share counts: the few pages that are not there are fetched again.
        }
    }

    private async Task RunAsync(List<PullContext> works, CancellationToken cancel)
    {
        var needed = NeededNames.Of(services.Job);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var runs = new List<PullRun>();
        foreach (var context in works)
        {
            foreach (var (_, strand) in _restarted.Where(restarted => restarted.Pull == context.Pull.Name))
                context.MarkRestarted(strand);
            var parent = works.Find(other => other.Pull.Name == context.Pull.Per?.Pull);
            var feed = new StrandFeed(context, parent?.Pull, needed);
            parent?.Feeds.Add(feed);
            if (context.Pull.Opens is not null)
                context.Feeds.Add(feed);
            runs.Add(new PullRun(context, feed, hasParent: parent is not null));
        }

        // Rows that are landed make strands first; from here on every page is handed on as it lands.
        foreach (var context in works.Where(context => context.Feeds.Count > 0))
            context.HandOnLanded();

        works.ForEach(context => services.Watch.PullBegan(context.Progress));
        var tasks = runs.Select(run => run.RunAsync(stop.Token)).ToList();
        try
        {
            // The first failure stops the others; it is the one that is told.
            await foreach (var ended in Task.WhenEach(tasks))
                await ended;
        }
        finally
        {
            await stop.CancelAsync();
            await Task.WhenAll(tasks).ContinueWith(_ => { }, TaskScheduler.Default);
        }
    }

    // The pulls with strands made from a pull's rows, however far down; itself where its rows open listings.
    private IEnumerable<Pull> Below(Pull pull)
    {
        if (pull.Opens is not null)
            yield return pull;
        foreach (var below in pulls.Where(other => other.Per?.Pull == pull.Name))
        {
            yield return below;
            foreach (var further in Below(below))
                yield return further;
        }
    }
}
