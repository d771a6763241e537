using System.Collections.Concurrent;
using System.IO.Hashing;
using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// Fetches counted pages and parts of exports for the machine that leads a run: takes what nobody has, and puts the answer into the
/// database
/// as it came. What it took is free again when it is not heard of any more.
/// </summary>
/// <param name="name">Names what is fetched: see <see cref="SharedPages.NameOf"/>.</param>
/// <param name="contexts">The pulls that it may be of.</param>
/// <param name="takeRequests">The requests that nobody was told of yet.</param>
internal sealed class PageWorker(
    IState state, string name, IReadOnlyList<PullContext> contexts, ConcurrentQueue<string> warnings, Func<long> takeRequests) : IDisposable
{
    private const int PieceLength = 1 << 20;

    private static readonly TimeSpan s_look = TimeSpan.FromMilliseconds(50);

    private readonly Guid _holder = Guid.NewGuid();
    private readonly ConcurrentDictionary<(string Pull, string Strand), Turn> _turns = new();
    private readonly SemaphoreSlim _free = new(0);
    private long _pages;

    /// <summary>Pages and parts that this machine has fetched.</summary>
    public long Pages => Interlocked.Read(ref _pages);

    /// <inheritdoc/>
    public void Dispose() => _free.Dispose();

    /// <summary>Works until it is stopped.</summary>
    /// <exception cref="StateAwayException">The database was away for too long.</exception>
    public async Task WorkAsync(CancellationToken cancel)
    {
        if (contexts.Count == 0)
            await Task.Delay(Timeout.InfiniteTimeSpan, cancel);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var works = new List<Task> { TakeAsync(stop.Token), RenewAsync(stop.Token) };
        try
        {
            await await Task.WhenAny(works);
        }
        finally
        {
            await stop.CancelAsync();
            await Task.WhenAll(works.Concat(_turns.Values.Select(turn => turn.Work))).ConfigureAwait(
                ConfigureAwaitOptions.SuppressThrowing);
            await GiveBackAsync();
        }
    }

    private async Task TakeAsync(CancellationToken cancel)
    {
        var runs = new Dictionary<string, StrandRun>(StringComparer.Ordinal);
        while (true)
        {
            foreach (var context in contexts)
            {
                var pull = context.Pull.Name;
                var free = (context.Pull.Export is null ? context.Pull.Parallel : 1) - _turns.Keys.Count(place => place.Pull == pull);
                if (free <= 0)
                    continue;
                foreach (var taken in await state.Queue.TakeAsync(name, pull, free, _holder, cancel))
                {
                    if (!runs.TryGetValue(pull, out var run))
                        runs[pull] = run = await new StrandFetch(context).OpenAsync(Strand.Only, cancel);
                    var turn = new Turn(taken.Fence, CancellationTokenSource.CreateLinkedTokenSource(cancel));
                    _turns[(pull, taken.Strand.Strand)] = turn;
                    turn.Work = FetchAsync(run, taken, turn, turn.Stop.Token);
                }
            }

            if (_turns.Values.FirstOrDefault(turn => turn.Work.IsFaulted) is { } failed)
                await failed.Work;
            await _free.WaitAsync(s_look, cancel);
            while (_free.CurrentCount > 0)
                await _free.WaitAsync(cancel);
        }
    }

    // One that fails for good stays among the turns: whoever takes the next one finds it there.
    private async Task FetchAsync(StrandRun run, TakenStrand taken, Turn turn, CancellationToken cancel)
    {
        await Task.Yield();
        var place = (taken.Strand.Pull, taken.Strand.Strand);
        try
        {
            if (await ResultAsync(run, taken, cancel) is { } result)
                await FinishAsync(taken, result, cancel);
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            // Another machine has it, or takes it once its lease is over.
        }

        _turns.TryRemove(place, out _);
        turn.Stop.Dispose();
        _free.Release();
    }

    private async Task FinishAsync(TakenStrand taken, StrandResult result, CancellationToken cancel)
    {
        List<string> said = [];
        while (warnings.TryDequeue(out var warning))
            said.Add(warning);
        var told = JsonSerializer.Serialize(result with { Warnings = said, Requests = takeRequests() }, RunRecordJson.Default.StrandResult);
        await state.Queue.FinishAsync(name, [new FinishedStrand(taken.Strand.Pull, taken.Strand.Strand, taken.Fence, told)], cancel);
        Interlocked.Increment(ref _pages);
    }

    // Null where another machine has it by now.
    private async Task<StrandResult?> ResultAsync(StrandRun run, TakenStrand taken, CancellationToken cancel)
    {
        var (position, isPart) = (taken.Strand.Values, run.Pull.Export is not null);
        try
        {
            var request = isPart ? ExportedListing.RequestOf(new Uri(position)) : run.Requests.At(position);
            using var answer = await run.TrySendAsync(request, position, goesOn: false, cancel);
            if (answer is null)
                return StrandResult.None with { Skip = run.Skip };
            return await PutAsync(taken, answer, cancel) ? StrandResult.None with { Answer = PageAnswer.Of(answer) } : null;
        }
        catch (StrandRestart restart)
        {
            return StrandResult.None with { Restart = restart.Message };
        }
        catch (TransportException error)
        {
            return StrandResult.None with { Broken = error.Message };
        }
        catch (RefusedException error) when (error.Refusal.Outcome is not (Outcome.StoppedResumable or Outcome.InternalError))
        {
            return StrandResult.None with { Refusal = error.Refusal };
        }
    }

    // What an earlier holder had put there goes first.
    private async Task<bool> PutAsync(TakenStrand taken, Answer answer, CancellationToken cancel)
    {
        var (pull, key) = (taken.Strand.Pull, taken.Strand.Strand);
        List<StoredChange> changes = [new StoredDrop(pull, key, 0, [])];
        if (answer.Stream is not { } stream)
        {
            changes.Add(Piece(0, answer.Body.Content.ToArray()));
            return await AddAsync();
        }

        var buffer = new byte[PieceLength];
        for (var nth = 0; ; nth++)
        {
            var length = await stream.ReadAtLeastAsync(buffer, buffer.Length, throwOnEndOfStream: false, cancel);
            if (length > 0)
                changes.Add(Piece(nth, buffer[..length]));
            if (changes.Count > 0 && !await AddAsync())
                return false;
            if (length < buffer.Length)
                return true;
            changes.Clear();
        }

        StoredPage Piece(int nth, byte[] bytes) =>
            new(
                pull,
                key,
                nth,
                0,
                bytes.Length,
                unchecked((long)XxHash3.HashToUInt64(bytes)),
                null,
                true,
                null,
                null,
                null,
                null,
                () => bytes);

        async Task<bool> AddAsync() => await state.Queue.AddAsync(
            name, changes, new Dictionary<(string Pull, string Strand), long> { [(pull, key)] = taken.Fence }, cancel) is [];
    }

    private async Task RenewAsync(CancellationToken cancel)
    {
        while (true)
        {
            await Task.Delay(state.Queue.Lease / 4, state.Clock, cancel);
            List<KeyValuePair<(string Pull, string Strand), long>> fences = [.. _turns.Select(
                turn => KeyValuePair.Create(turn.Key, turn.Value.Fence))];
            if (fences.Count > 0)
                await state.Queue.RenewAsync(name, fences, cancel);
        }
    }

    private async Task GiveBackAsync()
    {
        try
        {
            using var soon = new CancellationTokenSource(TimeSpan.FromSeconds(1), state.Clock);
            await state.Queue.GiveBackAsync(_holder, soon.Token);
        }
        catch (Exception error) when (error is IOException or OperationCanceledException or RefusedException)
        {
            // It is free after its lease.
        }
    }

    private sealed record Turn(long Fence, CancellationTokenSource Stop)
    {
        public Task Work { get; set; } = Task.CompletedTask;
    }
}
