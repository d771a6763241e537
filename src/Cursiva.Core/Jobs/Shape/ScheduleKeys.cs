namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of when a job runs.</summary>
public static class ScheduleKeys
{
    public static readonly Key At = new("at", KeyKind.Texts, "the times of day")
    {
        Otherwise = "cron: says when",
        Example = "[\"06:30\", \"18:30\"]",
    };
    public static readonly Key On = new("on", KeyKind.Texts, "the days: daily, weekdays, weekends, or days of the week (mon, tue …)")
    {
        Otherwise = "daily",
        Example = "weekdays",
    };
    public static readonly Key Cron = new("cron", KeyKind.Texts, "one or several cron expressions of five fields, in place of at: and on:")
    {
        Example = "30 6 1 * *",
    };
    public static readonly Key Zone = new("zone", KeyKind.Zone, "the time zone of the times")
    {
        Otherwise = "the job's zone",
        Example = "Europe/Oslo",
    };
    public static readonly Key Spread = new(
        "spread", KeyKind.Duration, "a start is put off by a random time up to this, so that not everything starts at once")
    {
        Otherwise = "2m",
        Example = "10m",
    };
    public static readonly Key LateAfter = new(
        "late-after", KeyKind.Duration, "how long after its time a run must be done; later, overview calls the job late")
    {
        Otherwise = "2h",
        Example = "45m",
    };
    public static readonly Section Section = new(
        "schedule",
        "when the job runs; cursiva schedule makes a systemd timer or a crontab line of it, and overview knows when it is late",
        [At, On, Cron, Zone, Spread, LateAfter]);
    public static readonly Key Schedule = new("schedule", KeyKind.Section, "when the job runs")
    {
        Otherwise = "nobody knows when it is due",
        Inside = Section,
    };
    public static readonly Key Expected = new(
        "expected",
        KeyKind.Text,
        "by when a run must be done, where something else starts the job: days as in schedule:, by, and a time of day in the job's zone")
    {
        Otherwise = "what schedule: says, or nothing",
        Example = "weekdays by 07:00",
    };
}
