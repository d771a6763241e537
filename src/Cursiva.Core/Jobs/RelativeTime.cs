using System.Globalization;

namespace Cursiva.Core.Jobs;

/// <summary>A time told from the run's start: so long ago, rounded down in a time zone.</summary>
/// <param name="Ago">Zero or more. Whole days are calendar days of the zone, so that a change of its clocks does not shift the
/// hour.</param>
public sealed record RelativeTime(TimeSpan Ago, TimeFloor Floor, TimeZoneInfo Zone)
{
    /// <summary>The time it stands for in a run that starts at <paramref name="now"/>.</summary>
    public DateTimeOffset Resolve(DateTimeOffset now)
    {
        var days = (int)Ago.TotalDays;
        var local = TimeZoneInfo.ConvertTime(now, Zone).DateTime.AddDays(-days);
        var instant = days == 0 ? now - Ago : ToInstant(local) - (Ago - TimeSpan.FromDays(days));
        local = TimeZoneInfo.ConvertTime(instant, Zone).DateTime;
        return Floor switch
        {
            TimeFloor.None => instant.ToUniversalTime(),

            // By the clock on the wall, and not by its names: an hour that comes twice in autumn is two hours.
            TimeFloor.Minute => (instant - TimeSpan.FromTicks(local.TimeOfDay.Ticks % TimeSpan.TicksPerMinute)).ToUniversalTime(),
            TimeFloor.Hour => (instant - TimeSpan.FromTicks(local.TimeOfDay.Ticks % TimeSpan.TicksPerHour)).ToUniversalTime(),
            TimeFloor.Day => ToInstant(local.Date).ToUniversalTime(),
            TimeFloor.Week => ToInstant(local.Date.AddDays(-(((int)local.DayOfWeek + 6) % 7))).ToUniversalTime(),
            TimeFloor.Month => ToInstant(new DateTime(local.Year, local.Month, 1)).ToUniversalTime(),
        };
    }

    /// <summary>A time in ISO 8601, in UTC, to the second or finer where it has a fraction.</summary>
    public static string Write(DateTimeOffset time) =>
        time.ToUniversalTime().ToString("yyyy-MM-dd'T'HH:mm:ss.FFFFFFF'Z'", CultureInfo.InvariantCulture);

    // A local time that a change of the clocks skips is the instant of the change; one that comes twice is the first of the two, so that
    // the
    // beginning of a day is never after what it is the beginning of.
    private DateTimeOffset ToInstant(DateTime local)
    {
        var plain = DateTime.SpecifyKind(local, DateTimeKind.Unspecified);
        var offset = Zone.IsInvalidTime(plain)
            ? Zone.GetUtcOffset(plain.AddHours(-3))
            : Zone.IsAmbiguousTime(plain) ? Zone.GetAmbiguousTimeOffsets(plain).Max() : Zone.GetUtcOffset(
            plain);
        return new DateTimeOffset(plain, offset);
    }
}
