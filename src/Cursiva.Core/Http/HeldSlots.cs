using Cursiva.Core.State;

namespace Cursiva.Core.Http;

/// <summary>
/// Places among the requests at once that a stream keeps for as long as it is read: a slot that nobody renews is taken for lost once a
/// whole
/// answer would have come.
/// </summary>
internal sealed class HeldSlots : IDisposable
{
    private readonly Limiter _limiter;
    private readonly ITimer _timer;
    private readonly Lock _gate = new();
    private IReadOnlyList<Slot> _slots;
    private Task _renewing = Task.CompletedTask;
    private bool _over;

    public HeldSlots(Limiter limiter, IReadOnlyList<Slot> slots, TimeProvider clock, TimeSpan every)
    {
        (_limiter, _slots) = (limiter, slots);
        _timer = clock.CreateTimer(_ => Renew(), null, every, every);
    }

    /// <summary>The stream is read or dropped.</summary>
    public void Dispose()
    {
        _timer.Dispose();
        lock (_gate)
        {
            _over = true;
            _renewing = _renewing.ContinueWith(_ => _limiter.GiveBack(_slots), TaskScheduler.Default);
        }

        _limiter.Await(_renewing);
    }

    private void Renew()
    {
        lock (_gate)
        {
            if (!_over && _renewing.IsCompleted)
                _renewing = RenewAsync();
        }
    }

    private async Task RenewAsync()
    {
        try
        {
            _slots = await _limiter.HoldAsync(_slots);
        }
        catch (Exception error) when (error is Microsoft.Data.Sqlite.SqliteException or IOException)
        {
            // The next turn tries again, and the next request tells.
        }
    }
}
