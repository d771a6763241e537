using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Runs;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows what a run would do.</summary>
internal static class DryRunView
{
    public static void Show(IAnsiConsole console, bool json, DryRunAccount account, bool leaves)
    {
        if (json)
        {
            console.WriteLinesAsIs(JsonSerializer.Serialize(account, CliJson.Default.DryRunAccount));
            return;
        }

        console.MarkupLine("[bold]First requests[/]");
        var grid = Tables.Plain("pull", "request", "");
        foreach (var pull in account.Pulls)
            grid.AddRow(
                Shown.Text(pull.Pull),
                Shown.Text(pull.Asks),
                Shown.Text(pull.Per ?? (pull.Pages is { } pages ? $"{pages:N0} {(pages == 1 ? "page" : "pages")}" : "")));
        console.Write(grid);
        var estimate = account.LastRun ?? account.Probed;
        console.WriteLineAsIs(estimate is null
            ? "The duration is unknown: there was no run yet, and no listing says how many pages it has."
            : $"Estimated from {estimate.From}: {estimate.Requests:N0} requests in about {Durations.ForPeople(estimate.Time)}, under the declared limits.");
        if (account.LastRun is null && account.Pulls.Any(pull => pull.Per is not null))
            console.WriteLineAsIs("Repeated pulls are not included, since their strands are known only once the rows are there.");
        console.WriteLineAsIs("Nothing was landed.");
        if (leaves)
            ShowLeaving(console, account.Leaving);
    }

    private static void ShowLeaving(IAnsiConsole console, LeavingAccount? leaving)
    {
        console.WriteLine();
        if (leaving is null)
        {
            console.WriteLineAsIs("What would leave the machine is not known: no run has landed all its rows.");
            return;
        }

        console.Say($"[bold]Would be sent[/], with the rows of run {leaving.Run}");
        var grid = Tables.Plain("", "to", "what", "shown in");
        foreach (var line in leaving.Lines)
            grid.AddRow(
                Shown.Text(line.Name),
                Shown.Text(line.To),
                Shown.Text(line.What),
                Shown.Text(line.Path is { } path ? Path.GetRelativePath(Environment.CurrentDirectory, path) : ""));
        console.Write(grid);
        console.WriteLineAsIs("Nothing was sent.");
    }
}
