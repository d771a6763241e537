using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Runs;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells about runs: a list, one of them, what differs between two, what was removed.</summary>
internal static class RunsView
{
    public static void ShowList(IAnsiConsole console, bool json, JobRuns runs)
    {
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize([.. runs.Records], CliJson.Default.RunRecordArray));
            return;
        }

        if (runs.Records.Count == 0)
        {
            console.WriteLine("The job has no run yet.");
            return;
        }

        var table = Tables.Plain("run", "began", "state", "rows", "requests", "took", "landed", "");
        foreach (var run in runs.Records)
            table.AddRow(Shown.Text($"{run.Number}"), Shown.Text(Day(run.StartedAt, runs.Job)), Shown.Text(State(run)), Shown.Text($"{run.Rows.Values.Sum():N0}"), Shown.Text($"{run.Requests:N0}"), Shown.Text(Durations.ForPeople(run.Took)), Shown.Text(IsThere(runs, run) ? "kept" : "removed"), Shown.Text(run.Note ?? ""));
        console.Write(table);
    }

    public static void ShowOne(IAnsiConsole console, bool json, JobRuns runs, RunRecord run)
    {
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize([run], CliJson.Default.RunRecordArray));
            return;
        }

        console.Say($"[bold]Run {run.Number}[/] of {runs.Job.Title}");
        var grid = new Grid().AddColumn(new GridColumn { NoWrap = true, Padding = new Padding(2, 0, 2, 0) }).AddColumn();
        void Line(string name, string what) => grid.AddRow(Shown.Text(name), Shown.Text(what));
        Line("state", State(run) + (run.Note is { } note ? $": {note}" : ""));
        Line("began", Day(run.StartedAt, runs.Job));
        if (run.EndedAt is { } ended)
            Line("ended", Day(ended, runs.Job));
        Line("asked for", run.Full ? "everything" : "what the job says");
        Line("requests", $"{run.Requests:N0} in {Durations.ForPeople(run.Took)}");
        Line("landing", IsThere(runs, run) ? runs.Folder.LandingOf(run.Number) : "removed");
        foreach (var (pull, rows) in run.Rows)
        {
            Line(pull, $"{rows:N0} rows{(run.Columns.TryGetValue(pull, out var columns) ? $": {string.Join(", ", columns.Select(column => $"{column.Name} {column.SqlType.ToLowerInvariant()}"))}" : "")}");
            if (run.Ends.FirstOrDefault(end => end.Pull == pull) is { } end)
                Line("", $"{(end.Told is { } told ? $"of {told:N0} that the API tells, " : "")}{(end.Proven ? "proven" : "not proven")} to be all: {end.Ended}");
        }
        foreach (var (figure, value) in run.Reports.Figures)
            Line(figure, value ?? "none");
        if (run.Skipped > 0)
            Line("skipped", $"{run.Skipped:N0}: {string.Join("; ", run.Skips.GroupBy(skip => (skip.Pull, skip.Because)).Select(group => $"{group.Count():N0} of {group.Key.Pull}, {group.Key.Because} ({string.Join(", ", group.Take(3).Select(skip => skip.Strand))}{(group.Count() > 3 ? ", ..." : "")})"))}");
        foreach (var warning in run.Warnings)
            Line("note", warning);
        console.Write(grid);
    }

    public static void ShowDifferences(IAnsiConsole console, bool json, IReadOnlyList<PullDifference> differences)
    {
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize([.. differences], CliJson.Default.PullDifferenceArray));
            return;
        }

        foreach (var difference in differences)
        {
            console.Say($"[bold]{difference.Pull}[/]  {difference.Added:N0} added, {difference.Removed:N0} removed, {difference.Changed:N0} changed");
            if (difference.Lines.Count == 0)
                continue;
            var table = Tables.Plain(["", .. difference.Key, "column", "before", "now"]);
            foreach (var line in difference.Lines)
                table.AddRow([Shown.Text(line.What), .. line.Key.Select(value => Shown.Text(value ?? "none")), Shown.Text(line.Column ?? ""), Shown.Text(Value(line, line.Old)), Shown.Text(Value(line, line.New))]);
            console.Write(new Padder(table, new Padding(2, 0, 0, 0)));
            if (difference.Added + difference.Removed > difference.Lines.Count(line => line.Column is null) || difference.Changed > difference.Lines.Where(line => line.Column is not null).Select(line => string.Join('\u0001', line.Key)).Distinct().Count())
                console.WriteLine("  and more; --rows tells how many to show, and compare: in the job makes tables of all");
        }
    }

    public static void ShowPruned(IAnsiConsole console, bool json, IReadOnlyList<int> removed, Keep keep)
    {
        if (json)
            console.WriteLinesAsIs(JsonSerializer.Serialize([.. removed], CliJson.Default.Int32Array));
        else if (removed.Count == 0)
            console.WriteLineAsIs($"Nothing to remove: kept are {keep}, and what incremental pulls need.");
        else
            console.WriteLineAsIs($"Removed the rows of {(removed.Count == 1 ? "run" : "runs")} {string.Join(", ", removed)}; kept are {keep}, and what incremental pulls need.");
    }

    private static string Value(DifferenceLine line, string? value) => line.Column is null ? "" : value ?? "none";

    private static bool IsThere(JobRuns runs, RunRecord run) => File.Exists(Path.Combine(runs.Folder.LandingOf(run.Number), "pages.db"));

    private static string State(RunRecord run) => run.State switch
    {
        RunState.Done => "done",
        RunState.SetAside => "set aside",
        RunState.Running => "running or cut short",
        RunState.Stopped => $"stopped with code {run.Outcome}",
    };

    private static string Day(DateTimeOffset at, Job job) => TimeZoneInfo.ConvertTime(at, job.Zone).ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture);
}
