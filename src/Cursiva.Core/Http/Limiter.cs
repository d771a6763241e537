using System.Globalization;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Http;

/// <summary>
/// Keeps declared limits as the server sees them (promise 2): a slot is taken, durably, before a request leaves, and is free
/// again one window after its answer came. However long either way takes, no window at the server then holds more requests
/// than there are slots.
/// </summary>
/// <remarks>
/// One write to disk takes the permits of everyone who waits, a little before their slots are free. So a disk that is slow to
/// flush costs little of what the limit leaves.
/// </remarks>
public sealed class Limiter : IAsyncDisposable
{
    // Between the time that a permit counts from and the request: a write to disk, a token to be fetched.
    private static readonly TimeSpan s_slack = TimeSpan.FromSeconds(10);

    // A timer takes no more than 49 days; whoever waits longer looks again in between.
    private static readonly TimeSpan s_longestWait = TimeSpan.FromHours(1);

    private readonly ISlots _slots;
    private readonly IReadOnlyList<SlotWindow> _windows;
    private readonly TimeSpan _hold;
    private readonly TimeProvider _clock;
    private readonly IRequestWatch _watch;
    private readonly SemaphoreSlim _turn = new(1, 1);
    private readonly Lock _gate = new();
    private readonly Queue<ReadyPermit> _ready = [];
    private readonly SlotReturns _returns;
    private readonly Budget _budget;
    private readonly TimeSpan _longestPause;
    private readonly PauseNote? _note;
    private TimeSpan _pausedUntil;
    private int _wanted;

    /// <param name="timeout">After this long a request that was never answered is over.</param>
    /// <param name="budget">Refuses a wait that would pass the run's deadline; null for none.</param>
    /// <param name="longestPause">A pause that is longer ends the run; null for any.</param>
    /// <param name="client">Names API and client, the same in every process, which share pauses; null where nobody shares them.</param>
    public Limiter(
        ISlots slots,
        IReadOnlyList<SlotWindow> windows,
        TimeSpan timeout,
        TimeProvider clock,
        IRequestWatch watch,
        Budget? budget = null,
        TimeSpan? longestPause = null,
        string? client = null)
    {
        _note = client is null ? null : new PauseNote(slots, client, clock);
        _longestPause = longestPause ?? TimeSpan.MaxValue;
        _budget = budget ?? Budget.Unlimited;
        _slots = slots;
        _windows = windows;
        _hold = timeout + s_slack;
        _returns = new SlotReturns(clock, returns => slots.TakeAsync([], 0, _hold, returns, CancellationToken.None));
        _clock = clock;
        _watch = watch;
    }

    /// <summary>Waits until a request may leave. Whoever waits first goes first.</summary>
    public async Task<IReadOnlyList<Slot>> TakeSlotsAsync(CancellationToken cancel)
    {
        var start = _clock.GetTimestamp();
        var waited = false;
        try
        {
            while (true)
            {
                var permit = await NextAsync(WaitAsync, cancel);
                if (await MayLeaveAsync(permit, WaitAsync))
                    return permit.Permit.Slots;
            }
        }
        finally
        {
            if (waited)
                _watch.Waited(_clock.GetElapsedTime(start));
        }

        async Task WaitAsync(TimeSpan wait, string reason)
        {
            _budget.CheckWait(wait, reason);
            waited = true;
            _watch.Waiting(reason, wait);
            await Task.Delay(
                TimeSpan.FromMilliseconds(Math.Clamp(Math.Ceiling(wait.TotalMilliseconds), 1, s_longestWait.TotalMilliseconds)),
                _clock,
                cancel);
        }
    }

    /// <summary>Gives slots back once the answer came, or the request failed for good.</summary>
    public void GiveBack(IEnumerable<Slot> slots) => _returns.Add([.. slots.Select(slot => (slot, Now + slot.Window.Window))]);

    /// <summary>Gives slots back that no request was sent with: they are as free as they were.</summary>
    public void GiveBackUnused(IEnumerable<Slot> slots) => _returns.Add([.. slots.Select(slot => (slot, Now))]);

    /// <summary>Keeps slots for as long as a stream is read.</summary>
    internal HeldSlots Hold(IReadOnlyList<Slot> slots) => new(this, slots, _clock, _hold / 2);

    /// <summary>Holds slots for longer.</summary>
    internal Task<IReadOnlyList<Slot>> HoldAsync(IReadOnlyList<Slot> slots) =>
        _slots.HoldAsync(slots, _hold, CancellationToken.None);

    /// <summary>Does not close before this is done.</summary>
    internal void Await(Task task) => _returns.Await(task);

    /// <summary>
    /// Holds back every request of the client for a while, as one answer asked: in this process, in others, and after a restart.
    /// </summary>
    public async Task PauseAsync(TimeSpan span, CancellationToken cancel)
    {
        if (LaterPause(Now + span) && _note is not null)
            await _note.WriteAsync(span, cancel);
    }

    /// <summary>Makes sure that a pause is worth waiting for.</summary>
    /// <exception cref="RefusedException">It is longer than the job allows.</exception>
    public void CheckPause(TimeSpan pause)
    {
        if (pause <= _longestPause)
            return;
        var until = _clock.GetUtcNow() + pause;
        throw new RefusedException(new Refusal(
            Outcome.StoppedResumable,
            $"the API asks for a pause of {Durations.ForPeople(pause)}, longer than longest-pause: {Durations.ForPeople(_longestPause)}; the run stops and keeps what has arrived")
        {
            Cause = "a quota is used up, or the API is down for long",
            NextStep = string.Create(
                CultureInfo.InvariantCulture,
                $"run again after {until:yyyy-MM-dd HH:mm}Z to resume it, or raise longest-pause: of the API"),
        });
    }

    /// <summary>Gives back what was not given back yet.</summary>
    public async ValueTask DisposeAsync()
    {
        while (_ready.TryDequeue(out var permit))
            GiveBackUnused(permit);
        await _returns.DisposeAsync();
        _turn.Dispose();
    }

    private async Task<ReadyPermit> NextAsync(Func<TimeSpan, string, Task> wait, CancellationToken cancel)
    {
        Interlocked.Increment(ref _wanted);
        try
        {
            await _turn.WaitAsync(cancel);
            try
            {
                while (true)
                {
                    if (_note is not null && await _note.ReadAsync(cancel) is { } noted)
                        LaterPause(Now + noted);
                    if (PauseLeft() is { } pause)
                    {
                        CheckPause(pause);
                        await wait(pause, "the pause that the API asked for");
                        continue;
                    }

                    if (_windows.Count == 0)
                        return new ReadyPermit(new Permit([], TimeSpan.Zero, null), Now);
                    if (_ready.TryDequeue(out var ready))
                        return ready;
                    var answer = await _returns.WithAsync(
                        returns => _slots.TakeAsync(_windows, Volatile.Read(ref _wanted), _hold, returns, cancel));
                    var came = Now;
                    if (answer.SetBack is { } back)
                        _watch.Warned(
                            $"the clock of this machine was set back by {Durations.ForPeople(back)}; the requests counted towards limits were moved with it");
                    foreach (var permit in answer.Taken)
                        _ready.Enqueue(new ReadyPermit(permit, came + permit.LeavesIn));
                    if (answer.Full is { } full)
                        await wait(answer.Wait, Describe(full));
                }
            }
            finally
            {
                _turn.Release();
            }
        }
        finally
        {
            Interlocked.Decrement(ref _wanted);
        }
    }

    // False when the permit cannot be used any more: a pause has begun, or it is no longer sure that it will not be taken for lost.
    private async Task<bool> MayLeaveAsync(ReadyPermit permit, Func<TimeSpan, string, Task> wait)
    {
        var leaves = false;
        try
        {
            while (permit.Permit.Latest is { } latest && permit.LeavesAt - Now is var early && early > TimeSpan.Zero)
                await wait(early, Describe(latest));
            return leaves = PauseLeft() is null && Now - permit.LeavesAt < s_slack;
        }
        finally
        {
            if (!leaves)
                GiveBackUnused(permit);
        }
    }

    private bool LaterPause(TimeSpan until)
    {
        lock (_gate)
        {
            var isLater = until > _pausedUntil;
            if (isLater)
                _pausedUntil = until;
            return isLater;
        }
    }

    // No request left: the slots are as free as they were.
    private void GiveBackUnused(ReadyPermit permit) => _returns.Add([.. permit.Permit.Slots.Select(slot => (slot, permit.LeavesAt))]);

    // Of a clock that nobody sets: when a request may leave does not move with the machine's time.
    private TimeSpan Now => _clock.GetElapsedTime(0);

    private TimeSpan? PauseLeft()
    {
        lock (_gate)
            return _pausedUntil - Now is var left && left > TimeSpan.Zero ? left : null;
    }

    private static string Describe(SlotWindow full) =>
        full.Window == TimeSpan.Zero ? $"one of {full.Count} requests at once"
        : full.Window.TotalSeconds == 1 ? $"the limit of {full.Count} per second"
        : full.Window.TotalMinutes == 1 ? $"the limit of {full.Count} per minute"
        : full.Window.TotalHours == 1 ? $"the limit of {full.Count} per hour"
        : $"the limit of {full.Count} per {full.Window.TotalSeconds:0.###} s";

    private readonly record struct ReadyPermit(Permit Permit, TimeSpan LeavesAt);
}
