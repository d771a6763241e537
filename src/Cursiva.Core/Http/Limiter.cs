using Cursiva.Core.State;

namespace Cursiva.Core.Http;

/// <summary>
/// Keeps declared limits as the server sees them (promise 2): a slot is taken, durably, before a request leaves, and is free
/// again one window after its answer came. However long either way takes, no window at the server then holds more requests
/// than there are slots.
/// </summary>
public sealed class Limiter : IAsyncDisposable
{
    private readonly IState _state;
    private readonly IReadOnlyList<SlotWindow> _windows;
    private readonly TimeSpan _timeout;
    private readonly TimeProvider _clock;
    private readonly IRequestWatch _watch;
    private readonly SemaphoreSlim _turn = new(1, 1);
    private readonly Lock _gate = new();
    private readonly List<SlotReturn> _givenBack = [];
    private readonly Budget _budget;
    private DateTimeOffset _pausedUntil;

    /// <param name="timeout">After this long a request that was never answered is over.</param>
    /// <param name="budget">Refuses a wait that would pass the run's deadline; null for none.</param>
    public Limiter(IState state, IReadOnlyList<SlotWindow> windows, TimeSpan timeout, TimeProvider clock, IRequestWatch watch, Budget? budget = null)
    {
        _budget = budget ?? Budget.Unlimited;
        _state = state;
        _windows = windows;
        _timeout = timeout;
        _clock = clock;
        _watch = watch;
    }

    /// <summary>Waits until a request may leave. Whoever waits first goes first.</summary>
    public async Task<IReadOnlyList<Slot>> TakeAsync(CancellationToken cancel)
    {
        var start = _clock.GetTimestamp();
        var waited = false;
        await _turn.WaitAsync(cancel);
        try
        {
            while (true)
            {
                var (wait, reason) = Paused();
                if (wait <= TimeSpan.Zero)
                {
                    if (_windows.Count == 0)
                        return [];

                    var answer = await TakeNowAsync(cancel);
                    if (answer.Full is null)
                        return answer.Taken;
                    (wait, reason) = (answer.Wait, answer.Full.Window == TimeSpan.Zero ? $"one of {answer.Full.Count} requests at once" : $"the limit of {answer.Full.Count} per {Describe(answer.Full.Window)}");
                }

                _budget.CheckWait(wait, reason);
                waited = true;
                _watch.Waiting(reason, wait);
                await Task.Delay(TimeSpan.FromMilliseconds(Math.Max(1, Math.Ceiling(wait.TotalMilliseconds))), _clock, cancel);
            }
        }
        finally
        {
            _turn.Release();
            if (waited)
                _watch.Waited(_clock.GetElapsedTime(start));
        }
    }

    /// <summary>Gives slots back once the answer came, or the request failed for good.</summary>
    public async Task GiveBackAsync(IReadOnlyList<Slot> slots)
    {
        if (slots.Count == 0)
            return;
        var now = _clock.GetUtcNow();
        lock (_gate)
            _givenBack.AddRange(slots.Select(slot => new SlotReturn(slot, now + slot.Window.Window)));

        // Slots of a window come back with the next request that leaves, in time; a place among those at once is free now.
        if (slots.Any(slot => slot.Window.Window == TimeSpan.Zero))
            await _state.TakeSlotsAsync([], now, window => default, Drain(), CancellationToken.None);
    }

    /// <summary>Holds back every request for a while, as one answer asked.</summary>
    public void Pause(TimeSpan span)
    {
        lock (_gate)
        {
            var until = _clock.GetUtcNow() + span;
            if (until > _pausedUntil)
                _pausedUntil = until;
        }
    }

    /// <summary>Gives back what was not given back yet.</summary>
    public async ValueTask DisposeAsync()
    {
        if (_givenBack.Count > 0)
            await _state.TakeSlotsAsync([], _clock.GetUtcNow(), window => default, Drain(), CancellationToken.None);
        _turn.Dispose();
    }

    private async Task<SlotAnswer> TakeNowAsync(CancellationToken cancel)
    {
        var now = _clock.GetUtcNow();
        return await _state.TakeSlotsAsync(_windows, now, window => now + _timeout + window.Window, Drain(), cancel);
    }

    private (TimeSpan Wait, string Reason) Paused()
    {
        lock (_gate)
            return (_pausedUntil - _clock.GetUtcNow(), "the pause that the API asked for");
    }

    private List<SlotReturn> Drain()
    {
        lock (_gate)
        {
            List<SlotReturn> slots = [.. _givenBack];
            _givenBack.Clear();
            return slots;
        }
    }

    private static string Describe(TimeSpan window) => window.TotalSeconds == 1 ? "second" : window.TotalMinutes == 1 ? "minute" : window.TotalHours == 1 ? "hour" : $"{window.TotalSeconds:0.###} s";
}
