using Cursiva.Core.Refusals;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells a refusal: what happened, the other side's words, the likely cause, the next step.</summary>
internal static class RefusalView
{
    /// <param name="resumable">Whether there is something to resume.</param>
    public static void Show(Terminal terminal, Refusal refusal, Advice advice, bool resumable = false)
    {
        // Before anything is wrapped: a secret on two lines is not recognised any more.
        refusal = terminal.Redactor.Clean(advice.Of(refusal));
        if (terminal.Events is { } events)
        {
            events.Refused(refusal, resumable ? advice.Resume : null);
            events.Ended = [.. events.Ended.Where(field => field.Key != "next-step"), new("next-step", refusal.NextStep)];
            return;
        }

        terminal.Error.Say($"[red]cursiva:[/] [bold]{refusal.What}[/]");
        Line(terminal, "request", refusal.Request);
        Line(terminal, "answer", refusal.Quote);
        Line(terminal, "cause", refusal.Cause);
        foreach (var other in refusal.Others)
            Line(terminal, "or", other);
        Line(terminal, "next", refusal.NextStep);
        Line(terminal, "resume", resumable ? advice.Resume : null);
    }

    private static void Line(Terminal terminal, string title, string? text)
    {
        if (text is null)
            return;
        var grid = new Grid().AddColumn(new GridColumn { NoWrap = true, Width = 9, Padding = new Padding(2, 0, 0, 0) }).AddColumn(
            new GridColumn { Padding = new Padding(1, 0, 0, 0) });
        grid.AddRow(Shown.Text(title + ":"), Shown.Text(text));
        terminal.Error.Write(grid);
    }
}
