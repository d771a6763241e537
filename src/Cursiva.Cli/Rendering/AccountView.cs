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
        Group(console, "asks", account.Asks.Select(line => (line.Name, line.What)));
        Group(console, "pulls", account.Pulls.Select(line => (line.Name, line.What)));
        Group(console, "writes", account.Writes.Select(line => (line.Name, line.What)));
        foreach (var warning in account.Warnings)
            console.Say($"\n[yellow]Note:[/] {warning}.");
        console.MarkupLine("\n[green]No mistakes.[/] No request was made.");
    }

    private static void Group(IAnsiConsole console, string title, IEnumerable<(string Name, string What)> lines)
    {
        var grid = new Grid().AddColumn(new GridColumn { NoWrap = true, Padding = new Padding(2, 0, 2, 0) }).AddColumn();
        foreach (var (name, what) in lines)
            grid.AddRow(Shown.Text(name), Shown.Text(what));
        if (grid.Rows.Count == 0)
            return;
        console.WriteLine();
        console.Say($"[blue]{title}[/]");
        console.Write(grid);
    }
}
