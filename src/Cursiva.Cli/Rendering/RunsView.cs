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
            console.WriteLinesAsIs(
                JsonSerializer.Serialize(
                    [.. runs.Records.Select(run => RunLine.Of(run, LandingOf(runs, run)))], CliJson.Default.RunLineArray));
            return;
        }

        if (runs.Records.Count == 0)
        {
            console.WriteLine("The job has no run yet.");
            return;
        }

        var table = new FittedTable(
            ("run", true, 0),
            ($"began ({runs.Job.Zone.Id})", false, 0),
            ("state", false, 0),
            ("rows", true, 1),
            ("requests", true, 3),
            ("took", true, 2));
        foreach (var run in runs.Records)
        {
            table.Add(
                [
                    $"{run.Number}",
                    $"{Day(run.StartedAt, runs.Job):yyyy-MM-dd HH:mm:ss}",
                    State(run),
                    $"{run.Rows.Values.Sum():N0}",
                    $"{run.Requests:N0}",
                    Durations.ForPeople(run.Took),
                ],
                run.Note ?? (LandingOf(runs, run) is null ? "its rows were removed" : null));
        }

        table.Write(console);
    }

    public static void ShowHistory(IAnsiConsole console, IReadOnlyList<HistoryLine> lines)
    {
        if (lines.Count == 0)
        {
            console.WriteLine("No job ran in that time.");
            return;
        }

        var table = new FittedTable(
            ("began (UTC)", false, 0),
            ("job", false, 0),
            ("run", true, 0),
            ("state", false, 0),
            ("rows", true, 1),
            ("requests", true, 3),
            ("took", true, 2));
        foreach (var line in lines)
        {
            var state = line.State == RunPhase.Done && line.Starts > 1 ? "done, resumed" : State(line.State, line.ExitCode);
            table.Add(
                [
                    $"{line.StartedAt.UtcDateTime:yyyy-MM-dd HH:mm:ss}",
                    line.Job,
                    $"{line.Run}",
                    state,
                    $"{line.Rows:N0}",
                    $"{line.Requests:N0}",
                    Durations.ForPeople(TimeSpan.FromSeconds(line.TookS)),
                ],
                line.Note);
        }

        table.Write(console);
    }

    public static void ShowOne(IAnsiConsole console, bool json, JobRuns runs, RunRecord run)
    {
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize(RunLine.Of(run, LandingOf(runs, run)), CliJson.Default.RunLine));
            return;
        }

        console.Say($"[bold]Run {run.Number}[/] of {runs.Job.Title}");
        var pairs = new Pairs();
        void Line(string name, string what) => pairs.Add(name, what);
        Line("state", State(run) + (run.Note is { } note ? $": {note}" : ""));
        Line("began", $"{Day(run.StartedAt, runs.Job):yyyy-MM-dd HH:mm:ss} ({runs.Job.Zone.Id})");
        if (run.EndedAt is { } ended)
            Line("ended", $"{Day(ended, runs.Job):yyyy-MM-dd HH:mm:ss} ({runs.Job.Zone.Id})");
        Line("fetched", run.Full ? "everything" : "as the job says");
        Line("requests", $"{run.Requests:N0} in {Durations.ForPeople(run.Took)}");
        Figures(run, Line);
        Line("landing", LandingOf(runs, run) ?? "removed");
        foreach (var (pull, rows) in run.Rows)
        {
            Line(
                pull,
                $"{rows:N0} rows{(run.Columns.TryGetValue(pull, out var columns) ? $": {string.Join(", ", columns.Select(column => $"{column.Name} {column.SqlType.ToLowerInvariant()}"))}" : "")}");
            if (run.Ends.FirstOrDefault(end => end.Pull == pull) is { } end)
                Line(
                    "",
                    $"{(end.Told is { } told ? $"of {told:N0} expected, " : "")}{(end.Proven ? "proven" : "not proven")} complete: {end.Ended}");
        }
        foreach (var (figure, value) in run.Reports.Figures)
            Line(
                figure,
                value is null ? "none" : long.TryParse(
                    value, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number) ? $"{number:N0}" : value);
        if (run.Skipped > 0)
            Line(
                "skipped",
                $"{run.Skipped:N0}: {string.Join("; ", run.Skips.GroupBy(skip => (skip.Pull, skip.Because)).Select(group => $"{group.Count():N0} of {group.Key.Pull}, {group.Key.Because} ({string.Join(", ", group.Take(3).Select(skip => skip.Strand))}{(group.Count() > 3 ? ", ..." : "")})"))}");
        foreach (var warning in run.Warnings)
            Line("notice", warning);
        pairs.Write(console);
    }

    private static void Figures(RunRecord run, Action<string, string> line)
    {
        var figures = run.Figures;
        if (figures.Statuses.Count > 0)
            line(
                "answers",
                string.Join(
                    ", ",
                    figures.Statuses.OrderBy(status => status.Key, StringComparer.Ordinal).Select(
                        status => $"{status.Value:N0} with {(status.Key == "none" ? "no complete answer" : status.Key)}")));
        if (figures.Retries > 0 || figures.WaitedS > 0)
            line(
                "retries",
                $"{figures.Retries:N0}; waited {Durations.ForPeople(TimeSpan.FromSeconds(figures.WaitedS))} for limits and pauses");
        if (figures.StagesS.Count > 0)
            line(
                "stages",
                string.Join(
                    ", ", figures.StagesS.Select(stage => $"{stage.Key} {Durations.ForPeople(TimeSpan.FromSeconds(stage.Value))}")));
        if (figures.Limits.Count > 0)
            line(
                "limits",
                string.Join(", ", figures.Limits.Select(limit => $"{limit.Api}: {limit.Taken:N0} of {limit.Limit} in use at the end")));
        if (figures.Deliveries.Count > 0)
            line("deliveries", string.Join(", ", figures.Deliveries.Select(state => $"{state.Value:N0} {state.Key}")));
        if (figures.LandedBytes > 0)
            line("landed", SummaryView.Size(figures.LandedBytes));
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
            console.Say(
                $"[bold]{difference.Pull}[/]  {difference.Added:N0} added, {difference.Removed:N0} removed, {difference.Changed:N0} changed");
            if (difference.Lines.Count == 0)
                continue;
            var table = Tables.Plain(["", .. difference.Key, "column", "before", "now"]);
            foreach (var line in difference.Lines)
                table.AddRow(
                [
                    Shown.Text(line.What),
                    .. line.Key.Select(value => Shown.Text(value ?? "none")),
                    Shown.Text(line.Column ?? ""),
                    Shown.Text(Value(line, line.Before)),
                    Shown.Text(Value(line, line.Now)),
                ]);
            console.Write(new Padder(table, new Padding(2, 0, 0, 0)));
            if (difference.Added + difference.Removed > difference.Lines.Count(line => line.Column is null)
                || difference.Changed > difference.Lines
                    .Where(line => line.Column is not null)
                    .Select(line => string.Join('\u0001', line.Key))
                    .Distinct()
                    .Count())
                console.WriteLine("  and more; --rows sets how many to show, and compare: in the job makes tables of all changes");
        }
    }

    public static void ShowPruned(IAnsiConsole console, bool json, IReadOnlyList<int> removed, Keep keep)
    {
        if (json)
            console.WriteLinesAsIs(JsonSerializer.Serialize([.. removed], CliJson.Default.Int32Array));
        else if (removed.Count == 0)
            console.WriteLineAsIs($"Nothing to remove: retaining {keep}, and what incremental pulls need.");
        else
            console.WriteLineAsIs(
                $"Removed the rows of {(removed.Count == 1 ? "run" : "runs")} {string.Join(", ", removed)}; retaining {keep}, and what incremental pulls need.");
    }

    private static string Value(DifferenceLine line, string? value) => line.Column is null ? "" : value ?? "none";

    // Null when its rows were removed.
    private static string? LandingOf(JobRuns runs, RunRecord run) =>
        runs.Folder.LandingOf(run.Number) is var landing && File.Exists(Path.Combine(landing, "pages.db")) ? landing
        : runs.Shared.Contains(run.Number) ? "in the shared state" : null;

    private static string State(RunRecord run) => State(run.Phase, run.Outcome);

    private static string State(RunPhase phase, int? code) => phase switch
    {
        RunPhase.Done => "done",
        RunPhase.SetAside => "set aside",
        RunPhase.Running => "running or killed",
        RunPhase.Stopped => $"stopped with code {code}",
    };

    private static DateTimeOffset Day(DateTimeOffset at, Job job) => TimeZoneInfo.ConvertTime(at, job.Zone);
}
