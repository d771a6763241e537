using System.Text.Json;
using Cursiva.Core.Encryption;
using Cursiva.Core.Secrets;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows the steps of an encrypted or signed payload; keys and what was opened are masked unless somebody asks for them.</summary>
internal static class PayloadView
{
    private const int Longest = 400;

    /// <param name="how">How what is masked is seen.</param>
    public static void Show(Terminal terminal, bool json, IReadOnlyList<PayloadStep> steps, bool reveal, string how)
    {
        List<PayloadStep> shown = [.. steps.Select(step => step.IsSecret && !reveal ? step with { Value = Redactor.Mask } : step)];
        if (json)
        {
            terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize([.. shown], CliJson.Default.PayloadStepArray));
            return;
        }

        foreach (var step in shown)
        {
            terminal.Out.Say($"[bold]{step.Name}[/]  {step.Note}");
            terminal.Out.WriteLinesAsIs(
                "  " + (step.Value.Length > Longest ? $"{step.Value[..Longest]}… ({step.Value.Length:N0} characters)" : step.Value));
        }

        if (shown.Exists(step => step.Value == Redactor.Mask))
            terminal.Error.Say($"Keys and decrypted text are masked; {how}.");
    }

    /// <summary>At which step one's own output begins to differ.</summary>
    public static void Show(Terminal terminal, bool json, IReadOnlyList<ComparedStep> compared)
    {
        if (json)
        {
            terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize([.. compared], CliJson.Default.ComparedStepArray));
            return;
        }

        terminal.Out.WriteLine();
        var table = Tables.Plain("", "step", "your output");
        foreach (var step in compared)
            table.AddRow(
                Shown.Text(step.Agrees ? "ok" : "differs", new Style(step.Agrees ? Color.Green : Color.Maroon)),
                Shown.Text(step.Name),
                Shown.Text(step.Says));
        terminal.Out.Write(table);
        if (compared.FirstOrDefault(step => !step.Agrees) is { } first)
            terminal.Out.Say($"\n[red]It begins to differ[/] at: [bold]{first.Name}[/].");
        else
            terminal.Out.Say($"\n[green]Nothing differs.[/]");
    }

    /// <summary>What of a document does not fit its schema.</summary>
    public static void Show(Terminal terminal, bool json, IReadOnlyList<KeyValuePair<string, string>> mistakes)
    {
        if (json)
        {
            terminal.Out.WriteLinesAsIs(
                JsonSerializer.Serialize(
                    [.. mistakes.Select(mistake => new SchemaLine(mistake.Key, mistake.Value))], CliJson.Default.SchemaLineArray));
            return;
        }

        if (mistakes.Count == 0)
        {
            terminal.Out.Say($"The document matches its schema.");
            return;
        }

        var table = Tables.Plain("place", "what was expected");
        foreach (var (place, expected) in mistakes)
            table.AddRow(Shown.Text(place.Length == 0 ? "(top)" : place), Shown.Text(expected));
        terminal.Out.Write(table);
    }
}
