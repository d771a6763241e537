using System.Globalization;

namespace Cursiva.Core.Jobs;

/// <summary>A time told from the run's start: so long ago, rounded down in a time zone.</summary>
/// <param name="Ago">Zero or more. Whole days are calendar days of the zone, so that a change of its clocks does not shift the hour.</param>
public sealed record RelativeTime(TimeSpan Ago, TimeFloor Floor, TimeZoneInfo Zone)
{
    /// <summary>The time it stands for in a run that starts at <paramref name="now"/>.</summary>
    public DateTimeOffset Resolve(DateTimeOffset now)
    {
        var days = (int)Ago.TotalDays;
        var local = TimeZoneInfo.ConvertTime(now, Zone).DateTime.AddDays(-days);
        if (Floor == TimeFloor.None && days == 0)
            return (now - Ago).ToUniversalTime();

        var instant = ToInstant(local) - (Ago - TimeSpan.FromDays(days));
        local = TimeZoneInfo.ConvertTime(instant, Zone).DateTime;
        return Floor == TimeFloor.None ? instant.ToUniversalTime() : ToInstant(RoundDown(local)).ToUniversalTime();
    }

    /// <summary>A time in ISO 8601, in UTC, to the second or finer where it has a fraction.</summary>
    public static string Write(DateTimeOffset time) =>
        time.ToUniversalTime().ToString("yyyy-MM-dd'T'HH:mm:ss.FFFFFFF'Z'", CultureInfo.InvariantCulture);

    private DateTime RoundDown(DateTime local) => Floor switch
    {
        TimeFloor.Minute => local.Date.AddMinutes(Math.Floor(local.TimeOfDay.TotalMinutes)),
        TimeFloor.Hour => local.Date.AddHours(local.Hour),
        TimeFloor.Week => local.Date.AddDays(-(((int)local.DayOfWeek + 6) % 7)),
        TimeFloor.Month => new DateTime(local.Year, local.Month, 1),
        TimeFloor.Day => local.Date,
        TimeFloor.None => local,
    };

    // A local time that a spring change skips moves on by the hour that was skipped.
    private DateTimeOffset ToInstant(DateTime local)
    {
        var plain = DateTime.SpecifyKind(local, DateTimeKind.Unspecified);
        if (Zone.IsInvalidTime(plain))
            plain = plain.AddHours(1);
        return new DateTimeOffset(plain, Zone.GetUtcOffset(plain));
    }
}
