namespace Cursiva.Core.Runs;

/// <summary>A clock that goes on from another moment.</summary>
/// <param name="start">What it shows now.</param>
public sealed class ShiftedClock(TimeProvider clock, DateTimeOffset start) : TimeProvider
{
    private readonly TimeSpan _shift = start - clock.GetUtcNow();

    /// <inheritdoc/>
    public override DateTimeOffset GetUtcNow() => clock.GetUtcNow() + _shift;

    /// <inheritdoc/>
    public override long TimestampFrequency => clock.TimestampFrequency;

    /// <inheritdoc/>
    public override long GetTimestamp() => clock.GetTimestamp();

    /// <inheritdoc/>
    public override ITimer CreateTimer(TimerCallback callback, object? state, TimeSpan dueTime, TimeSpan period) =>
        clock.CreateTimer(callback, state, dueTime, period);
}
