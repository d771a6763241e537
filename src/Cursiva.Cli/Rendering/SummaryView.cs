using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Tables;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells how a run ended: the counts and files on stdout, what went wrong on stderr.</summary>
internal sealed class SummaryView(Terminal terminal, ViewChoice view, Advice advice)
{
    public void Show(RunSummary summary)
    {
        if (terminal.Events is { } events)
        {
            events.Run = summary.Run > 0 ? summary.Run : null;
            events.Ended =
            [
                new("rows", summary.Pulls.Sum(pull => pull.Rows)),
                new("requests", summary.Requests),
                new("retries", summary.Retries),
                new("waited-s", Math.Round(summary.Waited.TotalSeconds, 3)),
                new("skips", summary.Skipped),
                new("files", summary.Files.Count),
            ];
        }

        if (view.JsonSummary)
            terminal.Out.WriteLinesAsIs(
                JsonSerializer.Serialize(
                    Record(summary, summary.Refusal is null ? null : terminal.Redactor.Clean(advice.Of(summary.Refusal))),
                    CliJson.Default.SummaryRecord));
        else if (summary.Run > 0)
            ShowCounts(summary);
        if (summary.Refusal is { } refusal)
            RefusalView.Show(terminal, refusal, advice, Resumable(summary));
    }

    // What has not left does not make a run less done.
    private static string Fetched(long strands, long pages)
    {
        var words = pages == 1 ? "1 page or file" : $"{pages:N0} pages or files";
        return strands == 0 && pages > 0
            ? words
            : $"{strands:N0} {(strands == 1 ? "strand" : "strands")}{(pages > 0 ? $" and {words}" : "")}";
    }

    private static bool IsDone(RunSummary summary) => summary.Outcome is Outcome.Done or Outcome.DeliveryFailed;

    private static bool Resumable(RunSummary summary) =>
        summary.Run > 0
            && !IsDone(summary)
            && (summary.Outcome is Outcome.Interrupted or Outcome.Terminated || summary.Pulls.Any(pull => pull.Rows > 0));

    private void ShowCounts(RunSummary summary)
    {
        var console = terminal.Out;
        var rows = summary.Pulls.Sum(pull => pull.Rows);
        var end = IsDone(summary) ? "[green]done[/]" : "[yellow]stopped[/]";
        console.MarkupLine($"[bold]Run {summary.Run}[/] {end} after {Durations.ForPeople(summary.Took)}");
        if (summary.StrandsHere is { } here)
            console.WriteLineAsIs(
                $"This machine fetched {Fetched(here, summary.PagesHere)} of it with {summary.Requests:N0} requests; the machine that held the job wrote the reports.");
        var pairs = new Pairs();
        foreach (var pull in summary.Pulls)
        {
            var before = pull.RowsBefore > 0 ? $", {pull.RowsBefore:N0} of them landed before the stop" : "";
            pairs.Add(
                pull.Pull,
                $"{pull.Rows:N0}",
                $"rows on {pull.Pages:N0} {(pull.Pages == 1 ? "page" : "pages")}{Strands(pull)}{before}{Ended(summary, pull)}");
        }

        if (summary.Pulls.Count > 1)
            pairs.Add("all", $"{rows:N0}", "rows");
        if (summary.Pulls.Count > 0)
        {
            pairs.Add("requests", $"{summary.Requests:N0}", $"{summary.Retries:N0} {(summary.Retries == 1 ? "retry" : "retries")}");
            pairs.Add("waited", Durations.ForPeople(summary.Waited), "for limits and pauses");
            pairs.Write(console);
        }

        ShowSkips(summary);
        ShowWarnings(summary);
        ShowDelivered(summary);
        if (summary.Files.Count == 0)
            return;

        console.MarkupLine("[bold]Written[/]");
        var files = new Pairs();
        foreach (var file in summary.Files)
            files.Add(
                Path.GetRelativePath(Environment.CurrentDirectory, file.Path),
                $"{file.Rows:N0} {(file.Rows == 1 ? "row" : "rows")}",
                Size(file.Bytes));
        files.Write(console);
    }

    private const int SkipsShown = 12;

    private const int WarningsShown = 6;

    // Why it ended is worth a word where nothing proves that it is whole.
    private static string Ended(RunSummary summary, PullCount pull) => summary.Ends.FirstOrDefault(end => end.Pull == pull.Pull) switch
    {
        null => "",
        { Proven: false } end => $"; not proven complete: {end.Ended}",
        { Told: { } told } end => $"; {end.Rows:N0} of {told:N0} expected",
        _ => "",
    };

    private void ShowWarnings(RunSummary summary)
    {
        foreach (var warning in summary.Warnings.Take(WarningsShown))
            terminal.Out.Say($"[yellow]Note:[/] {advice.Of(warning)}");
        if (summary.Warnings.Count > WarningsShown)
            terminal.Out.Say(
                $"[yellow]Note:[/] and {summary.Warnings.Count - WarningsShown:N0} more: {advice.Of("cursiva runs show JOB")} {summary.Run}");
    }

    private static string Strands(PullCount pull) =>
        pull.Strands == 0
            ? ""
            : $", {pull.Strands:N0} {(pull.Strands == 1 ? "strand" : "strands")}{(pull.Skips > 0 ? $" ({pull.Skips:N0} skipped)" : "")}";

    private void ShowDelivered(RunSummary summary)
    {
        List<LedgerEntry> sent = [.. summary.Deliveries.Where(entry => entry.Phase == LedgerPhase.Sent)];
        ShowEntries("Changed", "at", sent.Where(entry => entry.IsWrite));
        ShowEntries("Delivered", "to", sent.Where(entry => !entry.IsWrite));
    }

    private void ShowEntries(string title, string way, IEnumerable<LedgerEntry> entries)
    {
        var pairs = new Pairs();
        foreach (var entry in entries)
            pairs.Add(entry.Id, way, $"{entry.To}{(entry.Said.Length > 0 ? $" ({entry.Said})" : "")}");
        if (pairs.IsEmpty)
            return;
        terminal.Out.Say($"[bold]{title}[/]");
        pairs.Write(terminal.Out);
    }

    private void ShowSkips(RunSummary summary)
    {
        if (summary.Skips.Count == 0)
            return;
        var console = terminal.Out;
        console.MarkupLine($"[bold]Skipped[/] {summary.Skipped:N0}");
        var pairs = new Pairs();
        foreach (var skip in summary.Skips.Take(SkipsShown))
            pairs.Add($"{skip.Pull} ({skip.Strand})", skip.Status == 0 ? "sign-in" : $"{skip.Status}", skip.Because);
        if (summary.Skipped > SkipsShown)
            pairs.Add("...", $"and {summary.Skipped - SkipsShown:N0} more, in the SQL table skips and with --format json");
        pairs.Write(console);
    }

    /// <summary>A size for people.</summary>
    public static string Size(long bytes) => bytes switch
    {
        < 1000 => $"{bytes} bytes",
        < 1_000_000 => $"{bytes / 1000.0:0.0} kB",
        < 1_000_000_000 => $"{bytes / 1_000_000.0:0.0} MB",
        _ => $"{bytes / 1_000_000_000.0:0.00} GB",
    };

    private SummaryRecord Record(RunSummary summary, Refusal? refusal)
    {
        PullFacts? Of(PullCount pull) => summary.Ends.FirstOrDefault(end => end.Pull == pull.Pull);
        return new SummaryRecord(
            summary.Run,
            (int)summary.Outcome,
            refusal?.What,
            refusal?.Cause,
            refusal?.NextStep,
            [.. summary.Pulls.Select(
                pull => new SummaryRecord.PullLine(
                    pull.Pull,
                    pull.Rows,
                    pull.Pages,
                    pull.RowsBefore,
                    pull.Strands,
                    pull.Skips,
                    Of(pull)?.Told,
                    Of(pull)?.Ended,
                    Of(pull)?.Proven))],
            summary.Requests,
            summary.Retries,
            summary.Waited.TotalSeconds,
            summary.Took.TotalSeconds,
            [.. summary.Files.Select(file => new SummaryRecord.FileLine(file.Path, file.Rows, file.Bytes))],
            summary.Skips,
            [.. summary.Warnings.Select(advice.Of)],
            [.. summary.Deliveries.Select(LedgerLine.Of)]);
    }
}
