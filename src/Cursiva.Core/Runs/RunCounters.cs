using System.Collections.Concurrent;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;

namespace Cursiva.Core.Runs;

/// <summary>Counts requests, retries and waits, and passes everything on.</summary>
internal sealed class RunCounters(IRunWatch watch, TimeProvider clock) : IRequestWatch, ISignInWatch
{
    private long _requests;
    private long _retries;
    private long _signIns;
    private readonly ConcurrentDictionary<int, long> _statuses = new();
    private readonly Lock _gate = new();
    private readonly List<(long Start, long End)> _waits = [];

    public long Requests => Interlocked.Read(ref _requests);

    /// <summary>Requests by the status of their answers; under 0 those without a whole one.</summary>
    public IReadOnlyDictionary<int, long> Statuses => _statuses;

    public long Retries => Interlocked.Read(ref _retries);

    /// <summary>Counts requests of other machines.</summary>
    public void CountElsewhere(long requests) => Interlocked.Add(ref _requests, requests);

    public long SignIns => Interlocked.Read(ref _signIns);

    /// <summary>The time in which somebody waited for a limit or a pause: strands that wait side by side count once.</summary>
    public TimeSpan Waited
    {
        get
        {
            lock (_gate)
                return TimeSpan.FromTicks(_waits.Sum(wait => wait.End - wait.Start));
        }
    }

    void IRequestWatch.Answered(Request request, int status, TimeSpan took)
    {
        Interlocked.Increment(ref _requests);
        _statuses.AddOrUpdate(status, 1, (_, count) => count + 1);
        watch.Answered(request, status, took);
    }

    void IRequestWatch.Unanswered(Request request)
    {
        Interlocked.Increment(ref _requests);
        _statuses.AddOrUpdate(0, 1, (_, count) => count + 1);
        watch.Unanswered(request);
    }

    void IRequestWatch.Retrying(Request request, string reason, int attempt, TimeSpan delay)
    {
        Interlocked.Increment(ref _retries);
        watch.Retrying(request, reason, attempt, delay);
    }

    void IRequestWatch.Waiting(string limit, TimeSpan delay) => watch.Waiting(limit, delay);

    void IRequestWatch.Waited(TimeSpan waited)
    {
        lock (_gate)
        {
            // Waits are told as they end, so only those at the end of the list can overlap.
            var end = clock.GetUtcNow().Ticks;
            var start = end - waited.Ticks;
            while (_waits.Count > 0 && _waits[^1].End >= start)
            {
                (start, end) = (Math.Min(start, _waits[^1].Start), Math.Max(end, _waits[^1].End));
                _waits.RemoveAt(_waits.Count - 1);
            }

            _waits.Add((start, end));
        }

        watch.Waited(waited);
    }

    void ISignInWatch.SignedIn(string identity, TimeSpan lifetime)
    {
        Interlocked.Increment(ref _signIns);
        watch.SignedIn(identity, lifetime);
    }

    void IWarningWatch.Warned(string what) => watch.Warned(what);
}
