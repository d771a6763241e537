namespace Cursiva.Core.State;

/// <summary>
/// A clock that starts at a given moment and advances by a machine's steady time: setting that machine's clock does not move it.
/// </summary>
/// <param name="clock">Its timestamps and timers are used; what time it shows is not.</param>
/// <param name="start">What the new clock shows now.</param>
public sealed class SteadyClock(TimeProvider clock, DateTimeOffset start) : TimeProvider
{
    private readonly long _began = clock.GetTimestamp();

    /// <inheritdoc/>
    public override DateTimeOffset GetUtcNow() => start + clock.GetElapsedTime(_began);

    /// <inheritdoc/>
    public override long TimestampFrequency => clock.TimestampFrequency;

    /// <inheritdoc/>
    public override long GetTimestamp() => clock.GetTimestamp();

    /// <inheritdoc/>
    public override ITimer CreateTimer(TimerCallback callback, object? state, TimeSpan dueTime, TimeSpan period) =>
        clock.CreateTimer(callback, state, dueTime, period);
}
