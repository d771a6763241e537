using System.Text.Json;
using Cursiva.Core.Drafts;
using Cursiva.Core.Refusals;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells what a draft found out, and what is left to decide.</summary>
internal static class DraftView
{
    public static void Show(Terminal terminal, bool json, Drafted drafted, string file)
    {
        if (json)
        {
            terminal.Out.WriteLinesAsIs(
                JsonSerializer.Serialize(
                    new DraftLine(file, drafted.Name, drafted.Asked, drafted.Proofs, drafted.Open), CliJson.Default.DraftLine));
            return;
        }

        var table = Tables.Plain("found", "");
        foreach (var proof in drafted.Proofs)
            table.AddRow(Shown.Text(Name(proof)), Shown.Text(Words(proof)));
        terminal.Out.Write(table);
        foreach (var open in drafted.Open)
            terminal.Out.Say($"[yellow]To decide:[/] {open}");
        terminal.Out.Say(
            $"{file} is written, after {(drafted.Asked == 0 ? "no request" : drafted.Asked == 1 ? "1 request" : $"{drafted.Asked:N0} requests")}. Next: cursiva check {ShellWord.Of(file)} --live, then cursiva run {ShellWord.Of(file)}");
    }

    /// <summary>What became of a pull's columns.</summary>
    public static void Show(Terminal terminal, bool json, ColumnsUpdate update, string file, string pull)
    {
        if (json)
        {
            terminal.Out.WriteLinesAsIs(
                JsonSerializer.Serialize(new ColumnsLine(file, pull, update.Added, update.Unseen), CliJson.Default.ColumnsLine));
            return;
        }

        terminal.Out.Say(
            $"{(update.Added.Count == 0 ? $"The columns of '{pull}' are all in {file}; nothing is changed." : $"Added to the columns of '{pull}' in {file}: {string.Join(", ", update.Added)}.")}");
        if (update.Unseen.Count > 0)
            terminal.Out.Say($"[yellow]Note:[/] no landed row has {string.Join(", ", update.Unseen)}");
    }

    /// <summary>What an API's description lists.</summary>
    public static void Show(Terminal terminal, bool json, ApiDescription description)
    {
        if (json)
        {
            terminal.Out.WriteLinesAsIs(
                JsonSerializer.Serialize(
                    [.. description.Operations.Select(
                        operation => new OperationLine(
                            operation.Id.Length > 0 ? operation.Id : operation.Path, operation.Path, operation.Pages, operation.Words))],
                    CliJson.Default.OperationLineArray));
            return;
        }

        if (description.Operations.Count == 0)
        {
            terminal.Out.Say($"The description has no listing that a job can pull.");
            return;
        }

        var table = Tables.Plain("operation", "path", "pages", "what");
        foreach (var operation in description.Operations)
            table.AddRow(
                Shown.Text(operation.Id.Length > 0 ? operation.Id : operation.Path),
                Shown.Text(operation.Path),
                Shown.Text(operation.Pages ? "yes" : ""),
                Shown.Text(operation.Words));
        terminal.Out.Write(table);
        terminal.Out.Say($"Draft one: cursiva draft --description FILE --operation OPERATION");
    }

    private static string Name(string proof) => proof[..proof.IndexOf(':', StringComparison.Ordinal)];

    private static string Words(string proof) => proof[(proof.IndexOf(':', StringComparison.Ordinal) + 2)..];
}
