namespace Cursiva.Core.Tests.Http;

/// <summary>A clock on which every wait is over at once, and the time has passed all the same.</summary>
internal sealed class QuickClock : TimeProvider
{
    private long _ticks = new DateTimeOffset(2026, 3, 2, 0, 0, 0, TimeSpan.Zero).Ticks;

    public override long TimestampFrequency => TimeSpan.TicksPerSecond;

    public override DateTimeOffset GetUtcNow() => new(Interlocked.Read(ref _ticks), TimeSpan.Zero);

    public override long GetTimestamp() => Interlocked.Read(ref _ticks);

    public void Pass(TimeSpan span) => Interlocked.Add(ref _ticks, span.Ticks);

    public override ITimer CreateTimer(TimerCallback callback, object? state, TimeSpan dueTime, TimeSpan period)
    {
        // The limit of a request is a timer, too, and must not run out: only waits up to two minutes that a test asks for pass.
        var isTimeout = dueTime == TimeSpan.FromSeconds(5) || dueTime == TimeSpan.FromSeconds(30) || dueTime == TimeSpan.FromSeconds(60) || dueTime == Timeout.InfiniteTimeSpan;
        if (!isTimeout)
            Pass(dueTime);
        return System.CreateTimer(callback, state, isTimeout ? Timeout.InfiniteTimeSpan : TimeSpan.Zero, Timeout.InfiniteTimeSpan);
    }
}
