using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>The runs of one job, as somebody looks back at them.</summary>
/// <param name="Records">Oldest first.</param>
public sealed record JobRuns(Job Job, JobFolder Folder, IReadOnlyList<RunRecord> Records)
{
    /// <summary>The numbers of the runs whose rows are in a database that machines share.</summary>
    public IReadOnlySet<int> Shared { get; init; } = new HashSet<int>();

    /// <exception cref="RefusedException">The job's name belongs to another file.</exception>
    public static async Task<JobRuns> OpenAsync(Job job, StateFolder stateFolder, IState state, CancellationToken cancel)
    {
        await JobName.ClaimAsync(job, state, cancel);
        var folder = new JobFolder(stateFolder, job);
        return new JobRuns(job, folder, await new RunStore(state, folder).ListAsync(cancel))
        {
            Shared = await new SharedLandings(state, folder, new Disk()).NumbersAsync(cancel),
        };
    }

    /// <summary>The runs that a new run has to know of: a job that runs every hour has thousands that it does not.</summary>
    /// <exception cref="RefusedException">The job's name belongs to another file.</exception>
    public static async Task<JobRuns> OpenNewestAsync(
        Job job, StateFolder stateFolder, IState state, DateTimeOffset now, CancellationToken cancel)
    {
        await JobName.ClaimAsync(job, state, cancel);
        var folder = new JobFolder(stateFolder, job);
        var store = new RunStore(state, folder);
        var newest = await store.NewestAsync(Newest, cancel);
        return new JobRuns(job, folder, newest.Count < Newest || AreEnough(job, newest, now) ? newest : await store.ListAsync(cancel));
    }

    private const int Newest = 100;

    // Whether nothing is wanted of the runs before them: to be the rows of an incremental pull, to know a pull's columns, or to be
    // retained.
    private static bool AreEnough(Job job, IReadOnlyList<RunRecord> runs, DateTimeOffset now)
    {
        List<RunRecord> good = [.. runs.Where(run => run.Phase == RunPhase.Done)];
        return good.Count > 0
            && job.Pulls.Where(pull => pull.GoesOnFromRuns).All(
                pull => good.Exists(run => run.AskedForAll(pull) || run.Folded.Contains(pull.Name)))
            && job.Pulls.All(pull => good.Exists(run => run.Columns.GetValueOrDefault(pull.Name) is { Length: > 0 }))
            && (job.Keep.Count is { } count ? good.Count > count
                : job.Keep.Age is { } age ? now - good[0].StartedAt > age
                : good.Sum(run => run.Figures.LandedBytes) > job.Keep.Bytes);
    }

    /// <summary>A run by its number.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public RunRecord Find(int number) =>
        Records.FirstOrDefault(run => run.Number == number) ?? throw Refuse(
            $"the job has no run {number}",
            Records.Count == 0 ? "run it first" : $"it has runs {Records[0].Number} to {Records[^1].Number}; see cursiva runs list");

    /// <summary>The run of a number, or the newest one, whose rows are all landed and still there.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public RunRecord Landed(int? number)
    {
        var run = number is { } given
            ? Find(given)
            : Records.LastOrDefault(run => run.LandedAt is not null) ?? throw Refuse(
                "no run of the job has all of its rows", "run the job first");
        if (run.LandedAt is null)
            throw Refuse(
                $"run {run.Number} does not have all its rows",
                run.IsFinished ? "it was set aside; name another run" : "run the job to resume it, or name another run");
        if (run.LandingFormat != RunLanding.Format || !File.Exists(Path.Combine(Folder.LandingOf(run.Number), "pages.db")))
            throw Refuse(
                $"the rows of run {run.Number} were removed", $"name a newer run; retain: says how many are kept (now {Job.Keep})");
        return run;
    }

    private static RefusedException Refuse(string what, string next) =>
        new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = next });
}
