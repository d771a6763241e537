using System.Collections.Concurrent;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>Offers work to all machines that share a run, and has what came of it taken over, until it is disposed of.</summary>
/// <param name="name">Names the landing that the work is about.</param>
/// <param name="takeOverAsync">Takes over what is finished; after that it counts as accepted.</param>
internal sealed class OfferedWork(
    IStrandQueue queue, string name, TimeProvider clock, Func<IReadOnlyList<FinishedStrand>, CancellationToken, Task> takeOverAsync)
        : IAsyncDisposable
{
    private const int MostOffered = 500;

    private static readonly TimeSpan s_look = TimeSpan.FromMilliseconds(50);

    private readonly ConcurrentQueue<(StoredStrand Strand, bool IsAnew)> _offers = new();
    private readonly CancellationTokenSource _ended = new();
    private Task _work = Task.CompletedTask;

    /// <summary>Begins. What an earlier machine offered is withdrawn: the job may have changed since.</summary>
    public async Task BeginAsync(CancellationToken cancel)
    {
        await queue.ClearAsync(name, cancel);
        _work = Task.Run(() => WorkAsync(_ended.Token), CancellationToken.None);
    }

    /// <summary>Offers something to whoever is free.</summary>
    /// <param name="isAnew">Whether it starts over.</param>
    public void Offer(StoredStrand strand, bool isAnew = false) => _offers.Enqueue((strand, isAnew));

    /// <summary>Offers nothing of what has not left yet.</summary>
    public void Forget() => _offers.Clear();

    /// <summary>Waits for what came of something, as long as work is taken over at all.</summary>
    public async Task<T> WaitAsync<T>(Task<T> result, CancellationToken cancel)
    {
        var ended = await Task.WhenAny(result, _work).WaitAsync(cancel);
        if (ended == _work)
            await _work;
        return await result.WaitAsync(cancel);
    }

    public async ValueTask DisposeAsync()
    {
        await _ended.CancelAsync();
        await _work.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        _ended.Dispose();
    }

    private async Task WorkAsync(CancellationToken cancel)
    {
        while (true)
        {
            var offers = new List<(StoredStrand, bool)>();
            while (offers.Count < MostOffered && _offers.TryDequeue(out var offer))
                offers.Add(offer);
            if (offers.Count > 0)
                await queue.OfferAsync(name, offers, cancel);
            var finished = await queue.FinishedAsync(name, cancel);
            if (finished.Count > 0)
                await takeOverAsync(finished, cancel);
            else
                await Task.Delay(s_look, clock, cancel);
        }
    }
}
