using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads when a job runs, and by when it is expected.</summary>
/// <param name="zone">The job's zone.</param>
internal sealed class ScheduleReader(Reading reading, TimeZoneInfo zone)
{
    public Schedule? Read(SectionReader top)
    {
        if (top.Inside(ScheduleKeys.Schedule, reading) is not { } section)
            return null;
        var (times, days, crons) = (section.Texts(ScheduleKeys.At), section.Texts(ScheduleKeys.On), section.Texts(ScheduleKeys.Cron));
        if (times.Count == 0 == (crons.Count == 0))
            reading.Add(
                section.Place,
                times.Count == 0 ? "schedule: has no time" : "schedule: has both at: and cron:",
                "give at: \"06:30\", and on: for the days; or cron: \"30 6 * * 1-5\"");
        if (days.Count > 0 && times.Count == 0)
            reading.Add(section.At(ScheduleKeys.On), "on: without at:", "add at: \"06:30\"; a cron expression has its days in its fields");
        foreach (var (text, place) in days.Where(day => !CronTime.Days.Contains(day.Text)))
            reading.Add(place, $"'{text}' is not a day", $"write {string.Join(", ", CronTime.Days)}");
        var found = new List<CronTime>();
        foreach (var (text, place) in times)
            Add(
                found,
                CronTime.TryParse(text, [.. days.Select(day => day.Text).Where(CronTime.Days.Contains)]),
                place,
                $"'{text}' is not a time of day",
                "write hours and minutes in quotes: \"06:30\"");
        foreach (var (text, place) in crons)
            Add(found, CronTime.TryParse(text), place, $"'{text}' is not a cron expression", CronTime.Right);
        return new Schedule(found, Words(times, days, crons), section.Zone(ScheduleKeys.Zone) ?? zone)
        {
            Spread = section.Duration(ScheduleKeys.Spread) ?? TimeSpan.FromMinutes(2),
            LateAfter = section.Duration(ScheduleKeys.LateAfter) ?? Schedule.DefaultLateAfter,
        };
    }

    public Schedule? Expected(SectionReader top)
    {
        if (top.Text(ScheduleKeys.Expected) is not { } text)
            return null;
        var words = text.Split([' ', ','], StringSplitOptions.RemoveEmptyEntries);
        if (words is [.. var days, "by", var at] && days.Length > 0 && CronTime.TryParse(at, days) is { } time)
            return new Schedule([time], text, zone) { IsDeadline = true, LateAfter = TimeSpan.Zero };
        reading.Add(
            top.At(ScheduleKeys.Expected),
            $"'{text}' does not say when a run must be done",
            "write daily by 07:00, weekdays by 07:00, or mon, thu by 07:00");
        return null;
    }

    private void Add(List<CronTime> found, CronTime? time, Place place, string wrong, string right)
    {
        if (time is null)
            reading.Add(place, wrong, right);
        else
            found.Add(time);
    }

    private static string Words(
        IReadOnlyList<(string Text, Place Place)> times,
        IReadOnlyList<(string Text, Place Place)> days,
        IReadOnlyList<(string Text, Place Place)> crons) =>
        crons.Count > 0 ? $"cron {string.Join("; ", crons.Select(cron => cron.Text))}"
        : $"{(days.Count == 0 ? "daily" : string.Join(", ", days.Select(day => day.Text)))} at {string.Join(" and ", times.Select(time => time.Text))}";
}
