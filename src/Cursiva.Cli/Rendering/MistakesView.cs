using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells the mistakes of a job: for people in blocks, in a pipe one line each.</summary>
internal static class MistakesView
{
    private static readonly Padding s_indent = new(2, 0, 0, 0);

    public static Outcome Show(Terminal terminal, IReadOnlyList<Mistake> mistakes)
    {
        if (terminal.Events is not { } events)
            return Show(terminal.Error, terminal.ErrorIsTerminal, mistakes);
        foreach (var mistake in mistakes)
            events.Mistaken(mistake);
        return OutcomeOf(mistakes);
    }

    public static Outcome Show(IAnsiConsole console, bool forPeople, IReadOnlyList<Mistake> mistakes)
    {
        foreach (var mistake in mistakes)
        {
            if (!forPeople)
            {
                console.WriteLineAsIs(mistake.ToString());
                continue;
            }

            console.Say($"[bold]{mistake.Place}[/]");
            console.Write(new Padder(Shown.Text(mistake.Found, new Style(Color.Maroon)), s_indent));
            console.Write(new Padder(Shown.Text(mistake.Right), s_indent));
        }

        if (forPeople)
            console.Say($"\n{(mistakes.Count == 1 ? "1 mistake" : $"{mistakes.Count} mistakes")}. Nothing was run.");
        return OutcomeOf(mistakes);
    }

    public static Outcome ShowJson(IAnsiConsole console, IReadOnlyList<Mistake> mistakes)
    {
        MistakeLine[] lines = [.. mistakes.Select(
            mistake => new MistakeLine(mistake.Place.File, mistake.Place.Line, mistake.Place.Column, mistake.Found, mistake.Right))];
        console.WriteLinesAsIs(JsonSerializer.Serialize(lines, CliJson.Default.MistakeLineArray));
        return OutcomeOf(mistakes);
    }

    // Inputs of the command line are no part of the file.
    private static Outcome OutcomeOf(IReadOnlyList<Mistake> mistakes) =>
        mistakes.All(mistake => mistake.Place.File == "--input") ? Outcome.WrongCommandLine : Outcome.JobFileWrong;
}
