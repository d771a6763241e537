using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>A job's place in the state while this process works on it alone: the lock is held, and its runs can be read and recorded.</summary>
internal sealed class RunScope : IAsyncDisposable
{
    private readonly ProcessLock _held;
    private readonly SqliteState _state;

    private RunScope(ProcessLock held, SqliteState state, JobRuns runs)
    {
        _held = held;
        _state = state;
        Runs = runs;
        Store = new RunStore(state, runs.Folder);
    }

    public IState State => _state;

    public JobFolder Folder => Runs.Folder;

    public RunStore Store { get; }

    /// <summary>The runs before this one that it has to know of, as they are recorded.</summary>
    public JobRuns Runs { get; private set; }

    /// <exception cref="RefusedException">The job is running, its name belongs to another file, or the state cannot be used.</exception>
    public static async Task<RunScope> OpenAsync(Job job, RunOptions options, CancellationToken cancel)
    {
        options.State.Prepare(options.Disk);
        var folder = new JobFolder(options.State, job);
        options.Disk.CreateFolder(folder.Path);
        var held = ProcessLock.TryTake(folder.Lock, options.Holder, out var heldBy)
            ?? throw new RefusedException(new Refusal(Outcome.AlreadyRunning, $"the job is running already{(heldBy.Length > 0 ? $": {heldBy}" : "")}")
            {
                NextStep = "wait until it has ended; a lock never outlives its process",
            });
        SqliteState? state = null;
        try
        {
            state = SqliteState.Open(options.State.Database);
            return new RunScope(held, state, await JobRuns.OpenNewestAsync(job, options.State, state, options.Clock.GetUtcNow(), cancel));
        }
        catch
        {
            if (state is not null)
                await state.DisposeAsync();
            held.Dispose();
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
        await _state.DisposeAsync();
        _held.Dispose();
    }
}
