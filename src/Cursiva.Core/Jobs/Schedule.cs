using Cronos;

namespace Cursiva.Core.Jobs;

/// <summary>When a job runs, or by when a run of it must be done.</summary>
/// <param name="Times">Cron expressions of five fields; it is due whenever one of them says so.</param>
/// <param name="Words">How it was written, for people.</param>
/// <param name="Zone">The zone of the times.</param>
public sealed record Schedule(IReadOnlyList<CronTime> Times, string Words, TimeZoneInfo Zone)
{
    /// <summary>How long after its time a run must be done, when a job says nothing.</summary>
    public static readonly TimeSpan DefaultLateAfter = TimeSpan.FromHours(2);

    // Somewhere within a leap year's turn every expression that has a time at all has one.
    private static readonly TimeSpan[] s_lookBack =
    [
        TimeSpan.FromDays(2),
        TimeSpan.FromDays(40),
        TimeSpan.FromDays(400),
        TimeSpan.FromDays(366 * 9),
    ];

    /// <summary>Whether the times are those by which a run must be done, and not those at which it begins.</summary>
    public bool IsDeadline { get; init; }

    /// <summary>A start is put off by a random time up to this.</summary>
    public TimeSpan Spread { get; init; } = TimeSpan.FromMinutes(2);

    /// <summary>How long after its time a run must be done.</summary>
    public TimeSpan LateAfter { get; init; } = DefaultLateAfter;

    /// <summary>
    /// The first time after another; null where there is none any more. A time that a change of the clocks skips is the instant of the
    /// change.
    /// </summary>
    public DateTimeOffset? After(DateTimeOffset time) => Times.Select(cron => cron.Expression.GetNextOccurrence(time, Zone)).Min();

    /// <summary>The last time that is not after another; null where there was none.</summary>
    public DateTimeOffset? UpTo(DateTimeOffset time)
    {
        foreach (var span in s_lookBack)
        {
            DateTimeOffset? last = null;
            foreach (var cron in Times)
            {
                foreach (var at in cron.Expression.GetOccurrences(time - span, time, Zone, fromInclusive: true, toInclusive: true))
                    last = last is null || at > last ? at : last;
            }

            if (last is not null)
                return last;
        }

        return null;
    }

    /// <summary>The longest time between two of its times, among the next hundred.</summary>
    public TimeSpan LongestPause(DateTimeOffset from)
    {
        var longest = TimeSpan.Zero;
        var at = After(from);
        for (var count = 0; count < 100 && at is { } earlier && After(earlier) is { } later; count++, at = later)
            longest = later - earlier > longest ? later - earlier : longest;
        return longest;
    }
}
