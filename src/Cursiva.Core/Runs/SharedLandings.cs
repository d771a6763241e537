using System.Globalization;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>The landings of a job that machines share. Where there is one machine there are none, and everything is here already.</summary>
public sealed class SharedLandings(IState state, JobFolder folder, IDisk disk)
{
    /// <summary>Where a landing is told to other machines; null where there are none.</summary>
    /// <param name="path">The landing's folder on this machine.</param>
    public SharedLanding? Of(string path) =>
        state.Landings.IsShared(folder.NameOf(path)) ? new SharedLanding(state.Landings, folder.NameOf(path)) : null;

    /// <summary>Removes what is shared of a landing that is about to be written again.</summary>
    /// <param name="path">The landing's folder on this machine.</param>
    public Task ClearAsync(string path, CancellationToken cancel) => state.Landings.RemoveAsync([folder.NameOf(path)], cancel);

    /// <summary>Brings the landings of runs to this machine, where others have landed more of them.</summary>
    /// <param name="runs">Their numbers.</param>
    /// <exception cref="LandingDamagedException">What is shared is not as it was written.</exception>
    public async Task BringAsync(IEnumerable<int> runs, CancellationToken cancel)
    {
        foreach (var run in runs.Distinct())
        {
            var at = folder.Of(run);
            foreach (var name in (await state.Landings.ListAsync(folder.NameOf(at) + "/", cancel))
                .Append(folder.NameOf(folder.LandingOf(run)))
                .Distinct())
            {
                var path = Path.Combine(at, Path.GetRelativePath(folder.NameOf(at), name));
                await new SharedLanding(state.Landings, name).BringAsync(disk, path, state.Clock, cancel);
            }

            await state.Files.BringAsync(folder.WrittenOf(run), cancel);
        }
    }

    /// <summary>
    /// Brings what a run's reports and comparisons are made of: its own rows, those of the good run before it, and those that incremental
    /// pulls go on from.
    /// </summary>
    /// <param name="number">The number of the run.</param>
    /// <exception cref="LandingDamagedException">What is shared is not as it was written.</exception>
    public Task BringForAsync(Job job, IReadOnlyList<RunRecord> runs, int number, CancellationToken cancel) =>
        BringAsync([number, .. NeededFor(job, runs, number)], cancel);

    /// <summary>Brings the landings of earlier runs that a run builds on, and not its own.</summary>
    /// <param name="number">The number of the run.</param>
    /// <exception cref="LandingDamagedException">What is shared is not as it was written.</exception>
    public Task BringBeforeAsync(Job job, IReadOnlyList<RunRecord> runs, int number, CancellationToken cancel) =>
        BringAsync(NeededFor(job, runs, number), cancel);

    private static IEnumerable<int> NeededFor(Job job, IReadOnlyList<RunRecord> runs, int number)
    {
        List<RunRecord> good = [.. runs.Where(run => run.Phase == RunPhase.Done && run.Number < number)];
        var chains = job.Pulls.Where(pull => pull.GoesOnFromRuns).SelectMany(pull => RunHistory.Chain(pull, good)).Select(
            run => run.Number);
        return [.. good.TakeLast(1).Select(run => run.Number), .. chains];
    }

    /// <summary>Shares the landings of other runs no longer.</summary>
    /// <param name="kept">The numbers of the runs that are kept.</param>
    /// <param name="last">The newest run that there may be.</param>
    public async Task RemoveOthersAsync(IReadOnlySet<int> kept, int last, CancellationToken cancel)
    {
        List<string> over = [.. (await NamesAsync(cancel)).Where(name => NumberOf(name) <= last && !kept.Contains(NumberOf(name)))];
        await state.Landings.RemoveAsync(over, cancel);
        foreach (var number in over.Select(NumberOf).Distinct())
            await state.Files.RemoveAsync(folder.Of(number), cancel);
    }

    /// <summary>The numbers of the runs whose landings are shared.</summary>
    public async Task<IReadOnlySet<int>> NumbersAsync(CancellationToken cancel) => (await NamesAsync(cancel)).Select(NumberOf).ToHashSet();

    private string Runs => folder.NameOf(Path.Combine(folder.Path, "runs")) + "/";

    private Task<IReadOnlyList<string>> NamesAsync(CancellationToken cancel) => state.Landings.ListAsync(Runs, cancel);

    private int NumberOf(string name) => int.Parse(name[Runs.Length..].Split('/')[0], CultureInfo.InvariantCulture);
}
