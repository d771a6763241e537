using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Tables;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells how a run ended: the counts and files on stdout, what went wrong on stderr.</summary>
internal sealed class SummaryView(Terminal terminal, ViewChoice view)
{
    public void Show(RunSummary summary, string jobPath)
    {
        if (view.JsonSummary)
            terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize(Record(summary, summary.Refusal is null ? null : terminal.Redactor.Clean(summary.Refusal)), CliJson.Default.SummaryRecord));
        else if (summary.Run > 0)
            ShowCounts(summary);
        if (summary.Refusal is { } refusal)
            RefusalView.Show(terminal, refusal, Resumable(summary) ? $"cursiva run {jobPath}" : null);
    }

    private static bool Resumable(RunSummary summary) => summary.Run > 0 && summary.Outcome != Outcome.Done && (summary.Outcome is Outcome.Interrupted or Outcome.Terminated || summary.Pulls.Any(pull => pull.Rows > 0));

    private void ShowCounts(RunSummary summary)
    {
        var console = terminal.Out;
        var rows = summary.Pulls.Sum(pull => pull.Rows);
        var end = summary.Outcome == Outcome.Done ? "[green]done[/]" : "[yellow]stopped[/]";
        console.MarkupLine($"[bold]Run {summary.Run}[/] {end} after {Durations.ForPeople(summary.Took)}");
        var grid = new Grid().AddColumn(new GridColumn { NoWrap = true, Padding = new Padding(2, 0, 2, 0) }).AddColumn(new GridColumn { NoWrap = true, Alignment = Justify.Right, Padding = new Padding(0, 0, 2, 0) }).AddColumn();
        foreach (var pull in summary.Pulls)
        {
            var before = pull.RowsBefore > 0 ? $", {pull.RowsBefore:N0} of them landed before the stop" : "";
            grid.AddRow(Shown.Text(pull.Pull), Shown.Text($"{pull.Rows:N0}"), Shown.Text($"rows on {pull.Pages:N0} {(pull.Pages == 1 ? "page" : "pages")}{Strands(pull)}{before}{Ended(summary, pull)}"));
        }

        if (summary.Pulls.Count > 1)
            grid.AddRow(Shown.Text("all"), Shown.Text($"{rows:N0}"), Shown.Text("rows"));
        if (summary.Pulls.Count > 0)
        {
            grid.AddRow(Shown.Text("requests"), Shown.Text($"{summary.Requests:N0}"), Shown.Text($"{summary.Retries:N0} {(summary.Retries == 1 ? "retry" : "retries")}"));
            grid.AddRow(Shown.Text("waited"), Shown.Text(Durations.ForPeople(summary.Waited)), Shown.Text("for limits and pauses"));
            console.Write(grid);
        }

        ShowSkips(summary);
        ShowWarnings(summary);
        if (summary.Files.Count == 0)
            return;

        var files = new Grid().AddColumn(new GridColumn { NoWrap = true, Padding = new Padding(2, 0, 2, 0) }).AddColumn(new GridColumn { NoWrap = true, Alignment = Justify.Right, Padding = new Padding(0, 0, 2, 0) }).AddColumn(new GridColumn { NoWrap = true, Alignment = Justify.Right, Padding = new Padding(0, 0, 2, 0) });
        foreach (var file in summary.Files)
            files.AddRow(Shown.Text(Path.GetRelativePath(Environment.CurrentDirectory, file.Path)), Shown.Text($"{file.Rows:N0} rows"), Shown.Text(Size(file.Bytes)));
        console.MarkupLine("[bold]Written[/]");
        console.Write(files);
    }

    private const int SkipsShown = 12;

    private const int WarningsShown = 6;

    // Why it ended is worth a word where nothing proves that it is whole.
    private static string Ended(RunSummary summary, PullCount pull) => summary.Ends.FirstOrDefault(end => end.Pull == pull.Pull) switch
    {
        null => "",
        { Proven: false } end => $"; not proven to be all: {end.Ended}",
        { Told: { } told } end => $"; {end.Rows:N0} of {told:N0} told",
        _ => "",
    };

    private void ShowWarnings(RunSummary summary)
    {
        foreach (var warning in summary.Warnings.Take(WarningsShown))
            terminal.Out.Say($"[yellow]Note:[/] {warning}");
        if (summary.Warnings.Count > WarningsShown)
            terminal.Out.Say($"[yellow]Note:[/] and {summary.Warnings.Count - WarningsShown:N0} more, in runs show {summary.Run}");
    }

    private static string Strands(PullCount pull) =>
        pull.Strands == 0 ? "" : $", {pull.Strands:N0} {(pull.Strands == 1 ? "strand" : "strands")}{(pull.Skips > 0 ? $" ({pull.Skips:N0} skipped)" : "")}";

    private void ShowSkips(RunSummary summary)
    {
        if (summary.Skips.Count == 0)
            return;
        var console = terminal.Out;
        console.MarkupLine($"[bold]Skipped[/] {summary.Skipped:N0}");
        var grid = new Grid().AddColumn(new GridColumn { NoWrap = true, Padding = new Padding(2, 0, 2, 0) }).AddColumn(new GridColumn { Padding = new Padding(0, 0, 2, 0) }).AddColumn(new GridColumn { NoWrap = true, Alignment = Justify.Right, Padding = new Padding(0, 0, 2, 0) }).AddColumn();
        foreach (var skip in summary.Skips.Take(SkipsShown))
            grid.AddRow(Shown.Text(skip.Pull), Shown.Text(skip.Strand), Shown.Text(skip.Status == 0 ? "sign-in" : $"{skip.Status}"), Shown.Text(skip.Because));
        if (summary.Skipped > SkipsShown)
            grid.AddRow(Shown.Text("..."), Shown.Text($"and {summary.Skipped - SkipsShown:N0} more, in the SQL table skips and with --format json"), Shown.Text(""), Shown.Text(""));
        console.Write(grid);
    }

    /// <summary>A size for people.</summary>
    public static string Size(long bytes) => bytes switch
    {
        < 1000 => $"{bytes} bytes",
        < 1_000_000 => $"{bytes / 1000.0:0.0} kB",
        < 1_000_000_000 => $"{bytes / 1_000_000.0:0.0} MB",
        _ => $"{bytes / 1_000_000_000.0:0.00} GB",
    };

    private static SummaryRecord Record(RunSummary summary, Refusal? refusal)
    {
        PullFacts? Of(PullCount pull) => summary.Ends.FirstOrDefault(end => end.Pull == pull.Pull);
        return new SummaryRecord(
            summary.Run,
            (int)summary.Outcome,
            refusal?.What,
            refusal?.Cause,
            refusal?.NextStep,
            [.. summary.Pulls.Select(pull => new SummaryRecord.PullLine(pull.Pull, pull.Rows, pull.Pages, pull.RowsBefore, pull.Strands, pull.Skips, Of(pull)?.Told, Of(pull)?.Ended, Of(pull)?.Proven))],
            summary.Requests,
            summary.Retries,
            summary.Waited.TotalSeconds,
            summary.Took.TotalSeconds,
            [.. summary.Files.Select(file => new SummaryRecord.FileLine(file.Path, file.Rows, file.Bytes))],
            summary.Skips,
            summary.Warnings);
    }
}
