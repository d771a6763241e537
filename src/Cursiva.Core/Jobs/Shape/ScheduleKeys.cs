namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of when a job runs.</summary>
public static class ScheduleKeys
{
    public static readonly Key At = new("at", KeyKind.Texts, "the times of day")
    {
        Otherwise = "cron: sets them",
        Example = "[\"06:30\", \"18:30\"]",
    };
    public static readonly Key On = new("on", KeyKind.Texts, "the days: daily, weekdays, weekends, or days of the week (mon, tue …)")
    {
        Otherwise = "daily",
        Example = "weekdays",
    };
    public static readonly Key Cron = new("cron", KeyKind.Texts, "one or more cron expressions of five fields, instead of at: and on:")
    {
        Example = "30 6 1 * *",
    };
    public static readonly Key Zone = new("zone", KeyKind.Zone, "the time zone of the times")
    {
        Otherwise = "the job's zone",
        Example = "Europe/Oslo",
    };
    public static readonly Key Spread = new(
        "spread", KeyKind.Duration, "the longest random delay of a start, so that jobs do not all start at once")
    {
        Otherwise = "2m",
        Example = "10m",
    };
    public static readonly Key LateAfter = new(
        "late-after", KeyKind.Duration, "how long after its scheduled time a run may still be unfinished; after that, overview calls the job late")
    {
        Otherwise = "2h",
        Example = "45m",
    };
    public static readonly Section Section = new(
        "schedule",
        "when the job runs; cursiva schedule turns it into a systemd timer or a crontab line, and overview tells when the job is late",
        [At, On, Cron, Zone, Spread, LateAfter]);
    public static readonly Key Schedule = new("schedule", KeyKind.Section, "when the job runs")
    {
        Otherwise = "overview never calls the job late",
        Inside = Section,
    };
    public static readonly Key Expected = new(
        "expected",
        KeyKind.Text,
        "when a run must be done, for a job that something else starts: days as in schedule:, by, and a time of day in the job's zone")
    {
        Otherwise = "the times of schedule:, if there are any",
        Example = "weekdays by 07:00",
    };
}
