namespace Cursiva.Core.Http;

/// <summary>Waits of any length: a timer takes no more than 49.7 days.</summary>
public static class Waits
{
    private static readonly TimeSpan s_longestTimer = TimeSpan.FromDays(40);

    /// <summary>A time that a timer takes: none for what is longer, and zero for what is over.</summary>
    public static TimeSpan Timer(TimeSpan span) =>
        span == Timeout.InfiniteTimeSpan || span > s_longestTimer ? Timeout.InfiniteTimeSpan : span < TimeSpan.Zero ? TimeSpan.Zero : span;

    /// <summary>Waits.</summary>
    public static async Task DelayAsync(TimeSpan span, TimeProvider clock, CancellationToken cancel)
    {
        for (; span > s_longestTimer; span -= s_longestTimer)
            await Task.Delay(s_longestTimer, clock, cancel);
        await Task.Delay(span, clock, cancel);
    }
}
