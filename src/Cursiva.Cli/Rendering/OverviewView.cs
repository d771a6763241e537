using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Operations;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows how all jobs stand: one line each, and below it what somebody has to look at.</summary>
internal static class OverviewView
{
    private const int Widest = 100;

    /// <param name="failingOnly">Whether only jobs are shown that somebody has to look at.</param>
    public static void Show(IAnsiConsole console, bool json, JobsLook look, bool failingOnly)
    {
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize(look, CliJson.Default.JobsLook));
            return;
        }

        if (look.Jobs.Count == 0)
        {
            console.WriteLineAsIs(
                failingOnly
                    ? "Nothing needs attention."
                    : "No job has run here. Name job files or their folders to see when they are due: cursiva overview FOLDER");
            return;
        }

        var table = new FittedTable(
            ("job", false, 0),
            ("state", false, 0),
            ("last run (UTC)", false, 0),
            ("rows", true, 1),
            ("usually", true, 3),
            ("took", true, 2),
            ("usually", true, 4),
            ("due next (UTC)", false, 1))
        {
            Widest = Widest,
        };
        foreach (var job in look.Jobs)
        {
            var last = job.Last;
            table.AddWithNotes(
                [
                    job.Job,
                    job.State + (job.Resumable && job.State != "running"
                        ? ", resumable"
                        : job is { State: "done", Last.Starts: > 1 } ? ", resumed" : ""),
                    last is null ? "" : Time(last.EndedAt ?? last.StartedAt),
                    job.Running is { } running ? $"{running.Pulls.Sum(pull => pull.Rows):N0}" : last is null ? "" : $"{last.Rows:N0}",
                    job.UsualRows is { } rows ? $"{rows:N0}" : "",
                    last is null ? "" : Words(last.TookS),
                    job.UsualS is { } took ? Words(took) : "",
                    job.NextDue is { } due ? Time(due) : "",
                ],
                Notes(job));
        }

        table.Write(console);
        WriteUse(console, [.. look.Jobs.Where(job => job.Last is not null)]);
        var failing = look.Jobs.Count(job => job.Conditions.Count > 0);
        console.WriteLineAsIs(
            $"{look.Jobs.Count} {(look.Jobs.Count == 1 ? "job" : "jobs")}, {(failing == 0 ? "nothing needs attention" : $"{failing} {(failing == 1 ? "needs" : "need")} attention")}.");
    }

    private static void WriteUse(IAnsiConsole console, IReadOnlyList<JobStanding> jobs)
    {
        if (jobs.Count == 0)
            return;
        console.WriteLine();
        var table = new FittedTable(
            ("used by", false, 0), ("on disk", true, 0), ("requests in 1 h", true, 0), ("in 24 h", true, 0), ("of limits", false, 0))
        {
            Widest = Widest,
        };
        foreach (var job in jobs)
        {
            var limits = job.Limits.Where(limit => limit.Taken > 0).Select(limit => $"{limit.Taken:N0} of {limit.Limit} ({limit.Api})");
            table.Add(
            [
                job.Job,
                SummaryView.Size(job.Bytes),
                $"{job.RequestsInHour:N0}",
                $"{job.RequestsInDay:N0}",
                string.Join(", ", limits),
            ], null);
        }

        table.Write(console);
        console.WriteLine();
    }

    private static List<string> Notes(JobStanding job)
    {
        List<string> notes = [.. job.Conditions.Select(condition => condition.Words)];
        if (job.Last is { Skipped: > 0 } last)
            notes.Add($"{last.Skipped:N0} skipped in run {last.Run}");
        return notes;
    }

    private static string Words(double seconds) => Durations.ForPeople(TimeSpan.FromSeconds(seconds));

    private static string Time(DateTimeOffset time) => time.UtcDateTime.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture);
}
