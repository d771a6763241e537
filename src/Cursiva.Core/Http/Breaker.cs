namespace Cursiva.Core.Http;

/// <summary>
/// Stops hammering an API that is down: after many failures in a row everybody waits, one request tries, and while it fails the
/// pause grows.
/// </summary>
public sealed class Breaker(TimeProvider clock) : IDisposable
{
    /// <summary>Failures in a row after which it opens.</summary>
    public const int Threshold = 10;

    private static readonly TimeSpan s_first = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan s_longest = TimeSpan.FromSeconds(30);

    private readonly SemaphoreSlim _trial = new(1, 1);
    private readonly Lock _lock = new();
    private int _failures;
    private int _trials;
    private DateTimeOffset _openUntil;

    /// <summary>Waits until a request may try; while the breaker is open, one at a time.</summary>
    /// <param name="waits">Is told before a wait; may refuse it by throwing.</param>
    /// <returns>The trial's turn, to be disposed when its answer came; null while all is well.</returns>
    public async Task<IDisposable?> PassAsync(Action<TimeSpan> waits, CancellationToken cancel)
    {
        if (!IsOpen)
            return null;
        await _trial.WaitAsync(cancel);
        var turn = new Turn(_trial);
        try
        {
            if (!IsOpen)
            {
                turn.Dispose();
                return null;
            }

            TimeSpan wait;
            lock (_lock)
                wait = _openUntil - clock.GetUtcNow();
            if (wait > TimeSpan.Zero)
            {
                waits(wait);
                await Waits.DelayAsync(wait, clock, cancel);
            }

            return turn;
        }
        catch
        {
            turn.Dispose();
            throw;
        }
    }

    /// <summary>The API answered.</summary>
    public void Succeeded()
    {
        lock (_lock)
            _failures = _trials = 0;
    }

    /// <summary>The API failed: no answer, or one that says it is in trouble.</summary>
    public void Failed()
    {
        lock (_lock)
        {
            // What was under way together when it opened fails together, and is one failure.
            if (++_failures < Threshold || clock.GetUtcNow() < _openUntil)
                return;
            var pause = TimeSpan.FromTicks(Math.Min(s_longest.Ticks, s_first.Ticks << Math.Min(_trials++, 10)));
            _openUntil = clock.GetUtcNow() + pause;
        }
    }

    /// <summary>Whether so many trials in a row have failed that the API is given up.</summary>
    public bool HasGivenUp(int trials)
    {
        lock (_lock)
            return _trials >= trials;
    }

    /// <summary>Failures in a row.</summary>
    public int Failures
    {
        get
        {
            lock (_lock)
                return _failures;
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _trial.Dispose();

    private bool IsOpen
    {
        get
        {
            lock (_lock)
                return _failures >= Threshold;
        }
    }

    private sealed class Turn(SemaphoreSlim trial) : IDisposable
    {
        private SemaphoreSlim? _trial = trial;

        public void Dispose() => Interlocked.Exchange(ref _trial, null)?.Release();
    }
}
