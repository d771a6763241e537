namespace Cursiva.Core.Http;

/// <summary>
/// Requests at the same time. Where the API declares no number it is found out: twice as many for every round that goes well while the gate
/// is full, until the API pushes back for the first time; from then on one more a round, and half as many whenever it pushes back.
/// </summary>
/// <param name="atOnce">The declared number; null to find it out.</param>
/// <param name="wideOpen">Whether to begin with the most, since something else limits the requests.</param>
public sealed class Gate(int? atOnce, bool wideOpen = false)
{
    private const double Start = 8;
    private const double Most = 100;

    private readonly Lock _lock = new();
    private readonly Queue<TaskCompletionSource> _waiting = new();
    private double _limit = atOnce ?? (wideOpen ? Most : Start);
    private int _inside;
    private long _entered;
    private long _lastPush;

    /// <summary>Requests that may be inside now.</summary>
    public int Limit
    {
        get
        {
            lock (_lock)
                return (int)_limit;
        }
    }

    /// <summary>Waits for a place. Whoever waits first goes first.</summary>
    /// <returns>The number of the entrance, for <see cref="Leave"/>.</returns>
    public async Task<long> EnterAsync(CancellationToken cancel)
    {
        TaskCompletionSource turn;
        lock (_lock)
        {
            if (_inside < (int)_limit && _waiting.Count == 0)
            {
                _inside++;
                return ++_entered;
            }

            turn = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
            _waiting.Enqueue(turn);
        }

        await using var registration = cancel.Register(() => turn.TrySetCanceled(cancel));
        await turn.Task;
        lock (_lock)
            return ++_entered;
    }

    /// <summary>Leaves the place.</summary>
    /// <param name="entrance">What <see cref="EnterAsync"/> gave.</param>
    /// <param name="pushedBack">Whether the API pushed back: too many requests, overloaded, no answer. Null when it is not known.</param>
    public void Leave(long entrance, bool? pushedBack)
    {
        lock (_lock)
        {
            if (atOnce is null && pushedBack == true && entrance > _lastPush)
            {
                // Once for all that were under way together.
                _limit = Math.Max(1, _limit / 2);
                _lastPush = _entered;
            }
            else if (atOnce is null && pushedBack == false && _inside >= (int)_limit)
            {
                _limit = Math.Min(Most, _limit + (_lastPush == 0 ? 1 : 1 / _limit));
            }

            _inside--;
            while (_inside < (int)_limit && _waiting.TryDequeue(out var next))
            {
                if (next.TrySetResult())
                    _inside++;
            }
        }
    }
}
