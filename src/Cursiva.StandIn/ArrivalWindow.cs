using System.Diagnostics;

namespace Cursiva.StandIn;

/// <summary>Counts arrivals in one sliding window, refused ones included.</summary>
public sealed class ArrivalWindow(WindowLimit limit)
{
    private readonly Queue<long> _arrivals = new();

    /// <summary>Arrivals that found the window full.</summary>
    public long Breaches { get; private set; }

    /// <summary>The most arrivals that any window ending at an arrival held.</summary>
    public int Most { get; private set; }

    public WindowLimit Limit => limit;

    /// <summary>Notes an arrival.</summary>
    /// <returns>Zero when it is inside the limit; otherwise how long until the oldest arrival has left the window.</returns>
    public TimeSpan Arrive(long timestamp)
    {
        while (_arrivals.TryPeek(out var oldest) && Stopwatch.GetElapsedTime(oldest, timestamp) >= limit.Window)
            _arrivals.Dequeue();

        _arrivals.Enqueue(timestamp);
        Most = Math.Max(Most, _arrivals.Count);
        if (_arrivals.Count <= limit.Count)
            return TimeSpan.Zero;

        Breaches++;
        return limit.Window - Stopwatch.GetElapsedTime(_arrivals.Peek(), timestamp);
    }
}
