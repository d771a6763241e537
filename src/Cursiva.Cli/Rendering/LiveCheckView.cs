using System.Text.Json;
using Cursiva.Core.Checks;
using Cursiva.Core.Refusals;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells what a live check found, as a table.</summary>
internal static class LiveCheckView
{
    public static void Show(IAnsiConsole console, bool json, LiveReport report, IReadOnlyDictionary<string, AccessTrial>? found)
    {
        if (json)
        {
            console.WriteLinesAsIs(
                JsonSerializer.Serialize(
                    new LiveRecord(
                        (int)report.Outcome,
                        report.Lines,
                        report.ForAdministrator,
                        found?.ToDictionary(way => way.Key, way => way.Value.ToString())),
                    CliJson.Default.LiveRecord));
            return;
        }

        var table = Tables.Plain("", "who", "what", "found");
        var last = "";
        foreach (var line in report.Lines)
        {
            var who = $"{line.Kind} {line.Name}";
            var (mark, colour) = line.Verdict switch
            {
                LiveVerdict.Ok => ("ok", Color.Green),
                LiveVerdict.Notice => ("notice", Color.Olive),
                LiveVerdict.Failed => ("failed", Color.Maroon),
            };
            table.AddRow(
                Shown.Text(mark, new Style(colour)), Shown.Text(who == last ? "" : who), Shown.Text(line.Step), Shown.Text(line.Says));
            if (line.NextStep is { } next)
                table.AddRow(Text.Empty, Text.Empty, Text.Empty, Shown.Text("next: " + next, new Style(Color.Blue)));
            last = who;
        }

        console.Write(table);
        var bad = report.Lines.Count(line => line.Verdict == LiveVerdict.Failed);
        console.MarkupLine(report.Outcome == Outcome.Done
            ? "\n[green]Live check passed.[/]"
            : $"\n[red]Live check failed[/]: {(bad == 1 ? "1 thing is" : $"{bad} things are")} wrong.");
        foreach (var (identity, way) in found ?? new Dictionary<string, AccessTrial>())
            console.Say($"[green]Signed in[/] as identity '{identity}' with this change to the job: [bold]{way}[/]");
        if (report.ForAdministrator is not { } note)
            return;
        console.MarkupLine("\n[bold]For the administrator of the other side[/], to forward:\n");
        foreach (var paragraph in note.Split("\n\n"))
            console.Write(new Padder(Shown.Text(paragraph), new Padding(2, 0, 2, 1)));
    }
}
