using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Spectre.Console;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva demo</c>: the stand-in cloud and the example job, with no network and no prompt.</summary>
internal sealed class DemoCommand(Shutdown shutdown)
{
    private const string SecretVariable = "BRACKWATER_SECRET";
    private const string Secret = "not-a-real-secret";
    private const int RowsShown = 6;

    private readonly CommonOptions _common = new();
    private readonly Option<string> _folder = new("--folder") { Description = "the working folder", DefaultValueFactory = _ => "cursiva-demo" };
    private readonly Option<int> _rows = new("--rows") { Description = "consignments that the stand-in has", DefaultValueFactory = _ => 50_000 };

    public Command Build()
    {
        var command = new Command("demo", "Start the stand-in cloud on this machine and run the example job against it.") { _folder, _rows };
        command.SetWork(_common, (parsed, _, cancel) => ExecuteAsync(parsed, parsed.GetValue(_folder)!, parsed.GetValue(_rows), cancel));
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, string folder, int rows, CancellationToken cancel)
    {
        await using var place = new Workplace(parsed, _common, name => name == SecretVariable ? Secret : Environment.GetEnvironmentVariable(name));
        var terminal = place.Terminal;
        var job = CopyExample(folder);
        await using var standIn = await StandInProcess.StartAsync(["--rows", rows.ToString(), "--page-size", "250", "--limit", "50/1", "--latency", "4", "--jitter", "8"], cancel);
        terminal.Out.MarkupLineInterpolated($"[bold]The stand-in cloud[/] of Brackwater Freight listens at {standIn.Address} and has {rows:N0} consignments.");
        terminal.Out.MarkupLineInterpolated($"Running {Path.GetRelativePath(Environment.CurrentDirectory, job)} against it.\n");

        var source = new JobSource(job, new GivenInputs([], [KeyValuePair.Create("cloud", standIn.Address)], place.Environment));
        var outcome = await new RunCommand(shutdown).ExecuteAsync(source, StartChoice.New, Path.Combine(folder, "state"), RunLimits.None, place, cancel);
        if (outcome == Outcome.Done)
        {
            ShowRows(terminal.Out, Path.Combine(folder, "reports", "late.csv"));
            ShowFiles(terminal.Out, folder);
        }

        terminal.Out.WriteLine("The stand-in has been stopped.");
        return outcome;
    }

    private static string CopyExample(string folder)
    {
        Directory.CreateDirectory(folder);
        foreach (var file in Directory.GetFiles(Path.Combine(AppContext.BaseDirectory, "demo")))
            File.Copy(file, Path.Combine(folder, Path.GetFileName(file)), overwrite: true);
        return Path.Combine(folder, "consignments.cursiva.yaml");
    }

    private static void ShowRows(IAnsiConsole console, string path)
    {
        console.MarkupLineInterpolated($"\n[bold]First rows of {Path.GetRelativePath(Environment.CurrentDirectory, path)}[/]");
        foreach (var line in File.ReadLines(path).Take(RowsShown + 1))
            console.WriteLineAsIs("  " + line);
    }

    private static void ShowFiles(IAnsiConsole console, string folder)
    {
        console.MarkupLine("\n[bold]Files left[/]");
        var grid = new Grid().AddColumn(new GridColumn { NoWrap = true, Padding = new Padding(2, 0, 2, 0) }).AddColumn(new GridColumn { NoWrap = true, Alignment = Justify.Right, Padding = new Padding(0, 0, 2, 0) });
        foreach (var file in new DirectoryInfo(folder).GetFiles("*", SearchOption.AllDirectories).OrderBy(file => file.FullName, StringComparer.Ordinal))
            grid.AddRow(new Text(Path.GetRelativePath(Environment.CurrentDirectory, file.FullName)), new Text(SummaryView.Size(file.Length)));
        console.Write(grid);
        console.WriteLine();
    }
}
