using Cursiva.Core.Jobs;

namespace Cursiva.Core.Runs;

/// <summary>Removes the landings that nobody needs any more. What is recorded of their runs stays.</summary>
public sealed class RunPruner(Job job, JobFolder folder, RunOptions options)
{
    /// <summary>Removes what a job's retain: does not ask for.</summary>
    /// <param name="runs">Runs of the job, oldest first: those that retain: asks for and all behind them, at least.</param>
    /// <returns>The numbers of the runs whose landings were removed.</returns>
    public IReadOnlyList<int> Prune(IReadOnlyList<RunRecord> runs, Keep keep)
    {
        var kept = Kept(runs, keep);
        var removed = new List<int>();
        foreach (var number in folder.Numbers(options.Disk).Where(number => !kept.Contains(number) && number <= runs[^1].Number))
        {
            options.Disk.DeleteFolder(folder.Of(number));
            removed.Add(number);
        }

        return removed;
    }

    /// <summary>Removes them on this machine, and what the machines share of them.</summary>
    /// <param name="runs">Runs of the job, oldest first: those that retain: asks for and all behind them, at least.</param>
    /// <returns>The numbers of the runs whose landings were removed here.</returns>
    /// <exception cref="IOException">One cannot be removed.</exception>
    public async Task<IReadOnlyList<int>> PruneAsync(
        IReadOnlyList<RunRecord> runs, Keep keep, SharedLandings shared, CancellationToken cancel)
    {
        if (runs.Count == 0)
            return [];
        var removed = Prune(runs, keep);
        await shared.RemoveOthersAsync(Kept(runs, keep), runs[^1].Number, cancel);
        return removed;
    }

    /// <summary>The numbers of the good runs that a job asks to keep.</summary>
    internal static HashSet<int> Asked(IReadOnlyList<RunRecord> runs, Keep keep, DateTimeOffset now)
    {
        List<RunRecord> good = [.. runs.Where(run => run.Phase == RunPhase.Done)];
        var asked = keep.Count is { } count ? good.TakeLast(count)
            : keep.Age is { } age ? good.Where(run => run == good[^1] || now - run.StartedAt <= age)
            : Within(good, keep.Bytes ?? long.MaxValue);
        return [.. asked.Select(run => run.Number)];
    }

    private static IEnumerable<RunRecord> Within(List<RunRecord> good, long bytes)
    {
        long sum = 0;
        return Enumerable.Reverse(good).TakeWhile(run => (sum += run.Figures.LandedBytes) <= bytes || run == good[^1]);
    }

    private HashSet<int> Kept(IReadOnlyList<RunRecord> runs, Keep keep)
    {
        List<RunRecord> good = [.. runs.Where(run => run.Phase == RunPhase.Done)];
        var kept = Asked(runs, keep, options.Clock.GetUtcNow());

        // The newest state of an incremental pull is made of every run since the last full one.
        foreach (var pull in job.Pulls.Where(pull => pull.GoesOnFromRuns))
            kept.UnionWith(RunHistory.Chain(pull, good).Select(run => run.Number));

        // A stopped run may be resumed, and a report may be written from the last good one and the one before it.
        if (runs.Count > 0 && !runs[^1].IsFinished)
            kept.Add(runs[^1].Number);
        return kept;
    }
}
