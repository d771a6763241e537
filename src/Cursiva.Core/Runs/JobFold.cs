using Cursiva.Core.Jobs;

namespace Cursiva.Core.Runs;

/// <summary>Folds the landings of a job's older runs, and removes those that nobody needs, between its runs.</summary>
public sealed class JobFold(Job job, RunOptions options)
{
    /// <summary>Folds, and prunes what retain: does not ask for.</summary>
    /// <returns>The runs that have a fold now, and those whose landings were removed.</returns>
    /// <exception cref="Refusals.RefusedException">The job is running.</exception>
    /// <exception cref="IOException">The disk does not take it.</exception>
    /// <exception cref="Landing.LandingDamagedException">A landing is not as it was.</exception>
    public async Task<(IReadOnlyList<int> Folded, IReadOnlyList<int> Removed)> FoldAsync(CancellationToken cancel)
    {
        await using var scope = await RunScope.OpenAsync(job, options, cancel);
        if (scope.Runs.Records.Count > 0)
            await scope.Landings.BringForAsync(job, scope.Runs.Records, scope.Runs.Records[^1].Number + 1, cancel);
        var folded = await new ChainFold(job, scope.Runs.Records, scope.Folder, options, scope.Landings).FoldAsync(cancel);
        foreach (var run in folded)
            await scope.RewriteAsync(run, cancel);
        var removed = scope.Runs.Records.Any(run => run.Phase == RunPhase.Done)
            ? await new RunPruner(job, scope.Folder, options).PruneAsync(scope.Runs.Records, job.Keep, scope.Landings, cancel)
            : [];
        return ([.. folded.Select(run => run.Number)], removed);
    }
}
