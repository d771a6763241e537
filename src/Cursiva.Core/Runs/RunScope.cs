using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// A job's place in the state while this process works on it alone: the lease is held, and its runs can be read and recorded.
/// </summary>
internal sealed class RunScope : IAsyncDisposable
{
    private readonly IState _opened;

    private RunScope(ILease held, IState opened, JobRuns runs, IDisk disk)
    {
        Lease = held;
        _opened = opened;
        State = opened.Under(held);
        Runs = runs;
        Store = new RunStore(State, runs.Folder);
        Landings = new SharedLandings(State, runs.Folder, disk);
    }

    /// <summary>The state, in which nothing is written any more once the lease is lost.</summary>
    public IState State { get; }

    /// <summary>What this process works on the job by; it is lost when another machine may have taken the job over.</summary>
    public ILease Lease { get; }

    public JobFolder Folder => Runs.Folder;

    public RunStore Store { get; }

    /// <summary>The landings that other machines see.</summary>
    public SharedLandings Landings { get; }

    /// <summary>The runs before this one that it has to know of, as they are recorded.</summary>
    public JobRuns Runs { get; private set; }

    /// <exception cref="RefusedException">The job is running, its name belongs to another file, or the state cannot be used.</exception>
    public static async Task<RunScope> OpenAsync(Job job, RunOptions options, CancellationToken cancel)
    {
        var state = await options.Engine.OpenAsync(cancel);
        ILease? held = null;
        try
        {
            await SharedKey.CheckAsync(
                options.State, options.Disk, EnvironmentFile.Over(options.Environment, job.EnvFile, _ => { }), state, cancel);
            var folder = new JobFolder(options.State, job);
            options.Disk.CreateFolder(folder.Path);
            (held, var heldBy) = await state.Leases.TryTakeAsync(folder.Lease, options.Holder, null, cancel);
            if (held is null)
            {
                throw new RefusedException(new Refusal(
                    Outcome.AlreadyRunning, $"the job is already running{(heldBy.Length > 0 ? $": {heldBy}" : "")}")
                {
                    NextStep = options.State.Shared is { } shared
                        ? $"wait until it has ended; if its machine died, the job is free {Durations.ForPeople(shared.Lease)} after its last sign of life"
                        : "wait until it has ended; a lock never outlives its process",
                });
            }

            return new RunScope(
                held, state, await JobRuns.OpenNewestAsync(job, options.State, state, state.Clock.GetUtcNow(), cancel), options.Disk);
        }
        catch
        {
            if (held is not null)
                await held.DisposeAsync();
            await state.DisposeAsync();
            throw;
        }
    }

    /// <summary>Records something else of an earlier run.</summary>
    public async Task RewriteAsync(RunRecord run, CancellationToken cancel)
    {
        await Store.WriteAsync(run, cancel);
        Runs = Runs with { Records = [.. Runs.Records.Select(other => other.Number == run.Number ? run : other)] };
    }

    public async ValueTask DisposeAsync()
    {
        await Lease.DisposeAsync();
        await _opened.DisposeAsync();
    }
}
