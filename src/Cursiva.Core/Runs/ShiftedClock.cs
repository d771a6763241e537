namespace Cursiva.Core.Runs;

/// <summary>A clock that goes on from another moment.</summary>
/// <param name="start">What it shows now.</param>
internal sealed class ShiftedClock(TimeProvider clock, DateTimeOffset start) : TimeProvider
{
    private readonly TimeSpan _shift = start - clock.GetUtcNow();

    public override DateTimeOffset GetUtcNow() => clock.GetUtcNow() + _shift;

    public override long TimestampFrequency => clock.TimestampFrequency;

    public override long GetTimestamp() => clock.GetTimestamp();

    public override ITimer CreateTimer(TimerCallback callback, object? state, TimeSpan dueTime, TimeSpan period) => clock.CreateTimer(callback, state, dueTime, period);
}
