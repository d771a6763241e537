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
        var grid = Tables.Plain("pull", "asks", "");
        foreach (var pull in account.Pulls)
            grid.AddRow(
                Shown.Text(pull.Pull),
                Shown.Text(pull.Asks),
                Shown.Text(pull.Per ?? (pull.Pages is { } pages ? $"{pages:N0} {(pages == 1 ? "page" : "pages")}" : "")));
        console.Write(grid);
        var estimate = account.LastRun ?? account.Probed;
        console.WriteLineAsIs(estimate is null
            ? "How long it would take is not known: there was no run yet, and no listing tells how many pages it has."
            : $"By {estimate.From}, {estimate.Requests:N0} requests: about {Durations.ForPeople(estimate.Time)} under the limits that are declared.");
        if (account.LastRun is null && account.Pulls.Any(pull => pull.Per is not null))
            console.WriteLineAsIs("What is repeated is not counted in: how often shows only once its rows are there.");
        console.WriteLineAsIs("Nothing was landed.");
        if (leaves)
            ShowLeaving(console, account.Leaving);
    }

    private static void ShowLeaving(IAnsiConsole console, LeavingAccount? leaving)
    {
        console.WriteLine();
        if (leaving is null)
        {
            console.WriteLineAsIs("What would leave the machine is not known: there is no run whose rows are all landed.");
            return;
        }

        console.Say($"[bold]What would leave[/], with the rows of run {leaving.Run}");
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
