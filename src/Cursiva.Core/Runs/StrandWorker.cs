using System.Collections.Concurrent;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// Fetches strands of a run that several machines work on: takes what nobody has, lands it in a folder of its own and in the database, and
/// says what came of it. What it took is free again when it is not heard of any more.
/// </summary>
/// <param name="name">Names the landing of the run.</param>
/// <param name="folder">Takes rows on this machine until the run is over.</param>
/// <param name="servicesOf">What pulls work with, by the landing and what is told of warnings.</param>
/// <param name="requests">Requests that this process has made so far.</param>
internal sealed class StrandWorker(
    Job job,
    RunOptions options,
    IState state,
    string name,
    string folder,
    Func<RunLanding, Action<string>, PullServices> servicesOf,
    Func<long> requests) : IDisposable
{
    private static readonly TimeSpan s_look = TimeSpan.FromMilliseconds(100);
    private static readonly TimeSpan s_tell = TimeSpan.FromMilliseconds(50);

    private readonly IStrandQueue _queue = state.Queue;
    private readonly Guid _holder = Guid.NewGuid();
    private readonly ConcurrentDictionary<(string Pull, string Strand), long> _fences = new();
    private readonly ConcurrentDictionary<(string Pull, string Strand), CancellationTokenSource> _going = new();
    private readonly ConcurrentDictionary<string, int> _busy = new(StringComparer.Ordinal);
    private readonly ConcurrentQueue<(TakenStrand Strand, LandedSkip? Skip, Refusal? Refusal, string? Restart)> _ended = new();
    private readonly ConcurrentQueue<string> _warnings = new();
    private readonly SemaphoreSlim _free = new(0);
    private readonly Dictionary<(string Pull, string Strand), Task> _turns = [];
    private long _strands;
    private long _told;

    /// <summary>Strands that this machine has fetched.</summary>
    public long Strands => Interlocked.Read(ref _strands);

    /// <summary>Counted pages and parts of exports that this machine has fetched, once it has ended.</summary>
    public long Pages { get; private set; }

    /// <inheritdoc/>
    public void Dispose() => _free.Dispose();

    /// <summary>Works until it is stopped.</summary>
    /// <exception cref="StateAwayException">The database was away for too long.</exception>
    public async Task WorkAsync(CancellationToken cancel)
    {
        options.Disk.DeleteFolder(folder);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        await using var landing = new RunLanding(
            options.Disk, folder, state.Clock, shared: new SharedLanding(state.Landings, name, AddAsync));
        var services = servicesOf(landing, _warnings.Enqueue);
        var contexts = job.Pulls.Where(SharedHands.Takes).Select(pull => new PullContext(pull, services)).ToList();
        var counted = job.Pulls.Where(SharedPages.Takes).Select(pull => new PullContext(pull, services)).ToList();
        using var pages = new PageWorker(state, SharedPages.NameOf(name), counted, _warnings, TakeRequests);
        Task[] works =
        [
            TakeAsync(contexts, stop.Token),
            RenewAsync(stop.Token),
            TellAsync(landing, stop.Token),
            pages.WorkAsync(stop.Token),
        ];
        try
        {
            await await Task.WhenAny(works);
        }
        finally
        {
            await stop.CancelAsync();
            await Task.WhenAll(works).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            await Task.WhenAll(_turns.Values).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            Pages = pages.Pages;
            contexts.ForEach(context => context.Dispose());
            counted.ForEach(context => context.Dispose());
            await GiveBackAsync(landing);
        }
    }

    private async Task TakeAsync(List<PullContext> contexts, CancellationToken cancel)
    {
        var turns = new List<Task>();
        while (true)
        {
            foreach (var context in contexts)
            {
                var free = context.Pull.Parallel - _busy.GetValueOrDefault(context.Pull.Name);
                if (free <= 0)
                    continue;
                foreach (var taken in await _queue.TakeAsync(name, context.Pull.Name, free, _holder, cancel))
                {
                    var place = (taken.Strand.Pull, taken.Strand.Strand);
                    _busy.AddOrUpdate(place.Pull, 1, (_, busy) => busy + 1);
                    turns.Add(_turns[place] = StrandAsync(context, taken, _turns.GetValueOrDefault(place), cancel));
                }
            }

            turns.RemoveAll(turn => turn.IsCompletedSuccessfully);
            if (turns.Find(turn => turn.IsFaulted) is { } failed)
                await failed;
            await _free.WaitAsync(s_look, cancel);
            while (_free.CurrentCount > 0)
                await _free.WaitAsync(cancel);
        }
    }

    // What an earlier turn of the same strand has landed here and is not committed yet is refused: it may not fit what others landed since.
    private async Task EndAsync(Task earlier, (string Pull, string Strand) place, PullContext context)
    {
        do
            Drop(place);
        while (await Task.WhenAny(earlier, Task.Delay(s_tell, state.Clock)) != earlier);
        _fences.TryRemove(place, out _);
        await context.Services.Landing.CommitAsync(CancellationToken.None);
    }

    private async Task StrandAsync(PullContext context, TakenStrand taken, Task? earlier, CancellationToken cancel)
    {
        var place = (taken.Strand.Pull, taken.Strand.Strand);
        using var going = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        try
        {
            if (earlier is not null)
                await EndAsync(earlier, place, context);
            _going[place] = going;
            _fences[place] = taken.Fence;
            var strand = Strand.Of(
                new LandedStrand(taken.Strand.Pull, taken.Strand.Strand, taken.Strand.Values, taken.Strand.Carried, taken.Strand.Way));
            await BeginAsync(context, taken, isAgain: earlier is not null, going.Token);
            var skip = context.Landing.HasEnded(strand.Key) ? null : await new StrandFetch(context).RunAsync(strand, going.Token);
            if (skip is not null)
                context.Landing.Put(strand.Landed(context.Pull.Name) with { Skip = skip });
            _ended.Enqueue((taken, skip, null, null));
            Interlocked.Increment(ref _strands);
        }
        catch (StrandRestart restart)
        {
            _ended.Enqueue((taken, null, null, restart.Message));
        }
        catch (RefusedException error) when (error.Refusal.Outcome is not (Outcome.StoppedResumable or Outcome.InternalError))
        {
            _ended.Enqueue((taken, null, error.Refusal, null));
        }
        catch (OperationCanceledException) when (going.IsCancellationRequested)
        {
            // Another machine has it, or takes it once it is given back; until then what has arrived of it counts.
            if (!cancel.IsCancellationRequested)
                _fences.TryRemove(KeyValuePair.Create(place, taken.Fence));
        }
        finally
        {
            context.Landing.Forget(taken.Strand.Strand);
            _going.TryRemove(KeyValuePair.Create(place, going));
            _busy.AddOrUpdate(place.Pull, 0, (_, busy) => busy - 1);
            _free.Release();
        }
    }

    // Starts after the last page that any machine has landed; pages that only this machine has do not count.
    private async Task BeginAsync(PullContext context, TakenStrand taken, bool isAgain, CancellationToken cancel)
    {
        if (taken.IsAnew)
            context.MarkRestarted(taken.Strand.Strand);
        if (!taken.HasPages && !isAgain)
            return;
        await context.Services.Landing.CommitAsync(cancel);
        var pages = new List<StoredPage>();
        await foreach (var page in state.Landings.PagesAsync(name, (taken.Strand.Pull, [taken.Strand.Strand]), cancel))
        {
            var lines = page.Lines();
            pages.Add(page with { Lines = () => lines });
        }

        context.Landing.Import(taken.Strand.Strand, pages, startsOver: true);
        await context.Services.Landing.CommitAsync(cancel);
    }

    private async Task RenewAsync(CancellationToken cancel)
    {
        while (true)
        {
            await Task.Delay(_queue.Lease / 4, state.Clock, cancel);
            List<KeyValuePair<(string Pull, string Strand), long>> fences = [.. _fences];
            var held = await _queue.RenewAsync(name, fences, cancel);

            // One that was taken again meanwhile has another fence.
            foreach (var (place, fence) in fences.Where(strand => !held.Contains(strand.Key)))
            {
                if (_fences.TryGetValue(place, out var now) && now == fence)
                    Drop(place);
            }
        }
    }

    // The pages are committed before the result: a result never stands for pages that are missing.
    private async Task TellAsync(RunLanding landing, CancellationToken cancel)
    {
        while (true)
        {
            await Task.Delay(s_tell, state.Clock, cancel);
            await TellEndedAsync(landing, cancel);
        }
    }

    private async Task TellEndedAsync(RunLanding landing, CancellationToken cancel)
    {
        var ended = new List<(TakenStrand Strand, LandedSkip? Skip, Refusal? Refusal, string? Restart)>();
        while (_ended.TryDequeue(out var one))
            ended.Add(one);
        if (ended.Count == 0)
            return;
        await landing.CommitAsync(cancel);
        var (made, warnings) = (TakeRequests(), new List<string>());
        while (_warnings.TryDequeue(out var warning))
            warnings.Add(warning);
        await _queue.FinishAsync(
            name,
            [.. ended.Select((one, place) => new FinishedStrand(
                one.Strand.Strand.Pull,
                one.Strand.Strand.Strand,
                one.Strand.Fence,
                JsonSerializer.Serialize(
                    new StrandResult(one.Skip, one.Refusal, one.Restart, place == 0 ? warnings : [], place == 0 ? made : 0),
                    RunRecordJson.Default.StrandResult)))],
            cancel);
        foreach (var one in ended)
            _fences.TryRemove(KeyValuePair.Create((one.Strand.Strand.Pull, one.Strand.Strand.Strand), one.Strand.Fence));
    }

    private long TakeRequests()
    {
        var now = requests();
        return now - Interlocked.Exchange(ref _told, now);
    }

    private async Task AddAsync(string landing, IReadOnlyList<StoredChange> changes, CancellationToken cancel)
    {
        foreach (var place in await _queue.AddAsync(landing, changes, _fences, cancel))
            Drop(place);
    }

    // Not awaited: the strand may be waiting for the caller.
    private void Drop((string Pull, string Strand) place)
    {
        if (!_going.TryGetValue(place, out var going))
            return;
        try
        {
            going.CancelAfter(TimeSpan.Zero);
        }
        catch (ObjectDisposedException)
        {
            // It has just ended.
        }
    }

    private async Task GiveBackAsync(RunLanding landing)
    {
        try
        {
            using var soon = new CancellationTokenSource(TimeSpan.FromSeconds(1), state.Clock);
            await landing.CommitAsync(soon.Token);
            await TellEndedAsync(landing, soon.Token);
            await _queue.GiveBackAsync(_holder, soon.Token);
        }
        catch (Exception error) when (error is IOException or OperationCanceledException)
        {
            // It is free after its lease.
        }
    }
}
