using Cursiva.Core.Checks;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells what a job would do.</summary>
internal static class AccountView
{
    public static void Show(IAnsiConsole console, JobAccount account)
    {
        console.Say($"[bold]{account.Title}[/]");
        console.WriteLineAsIs(account.File);
        Group(console, "inputs", account.Inputs.Select(input => (input.Name, $"{input.Value}  ({input.From})")));
        Group(console, "signs in", account.SignsIn.Select(line => (line.Name, line.What)));
        Group(console, "calls", account.Calls.Select(line => (line.Name, line.What)));
        Group(console, "pulls", account.Pulls.Select(line => (line.Name, line.What)));
        Group(console, "reports", account.Reports.Select(line => (line.Name, line.What)));
        Group(console, "writes", account.Writes.Select(line => (line.Name, line.What)));
        Group(console, "delivers", account.Delivers.Select(line => (line.Name, line.What)));
        Group(console, "runs", account.Runs.Select(line => (line.Name, line.What)));
        foreach (var warning in account.Warnings)
            console.Say($"\n[yellow]Note:[/] {warning}.");
        console.MarkupLine("\n[green]No mistakes.[/] No request was made.");
    }

    private static void Group(IAnsiConsole console, string title, IEnumerable<(string Name, string What)> lines)
    {
        var pairs = new Pairs();
        foreach (var (name, what) in lines)
            pairs.Add(name, what);
        if (pairs.IsEmpty)
            return;
        console.WriteLine();
        console.Say($"[blue]{title}[/]");
        pairs.Write(console);
    }
}
