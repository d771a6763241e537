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
    private readonly Option<string> _folder = new("--folder")
    {
        Description = "the folder for the demo",
        DefaultValueFactory = _ => "cursiva-demo",
    };
    private readonly Option<int> _rows = new("--rows")
    {
        Description = "the number of consignments in the stand-in",
        DefaultValueFactory = _ => 50_000,
    };

    private readonly Option<string?> _refusal = new("--refusal")
    {
        Description =
            "let the stand-in refuse, and show what check --live --try finds: secret-ended, other-proof, not-approved, client-off, network-rule, sign-ins-limited; scope-missing, api-off, no-licence, other-audience, login-page, maintenance",
    };

    public Command Build()
    {
        var command = new Command("demo", "Start the stand-in cloud on this machine and run the example job against it.")
        {
            _folder,
            _rows,
            _refusal,
        };
        command.Executes(
            _common,
            (parsed, _, cancel) => ExecuteAsync(
                parsed, parsed.GetValue(_folder)!, parsed.GetValue(_rows), parsed.GetValue(_refusal), cancel));
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, string folder, int rows, string? refusal, CancellationToken cancel)
    {
        await using var place = new CommandContext(
            parsed, _common, name => name == SecretVariable ? Secret : Environment.GetEnvironmentVariable(name));
        var terminal = place.Terminal;
        var job = CopyExample(folder);
        var (mailbox, notices) = (Path.Combine(folder, "mailbox"), Path.Combine(folder, "notices.jsonl"));
        File.Delete(mailbox);
        await using var standIn = await StandInProcess.StartAsync(
            [
                "--mailbox",
                mailbox,
                "--office",
                notices,
                "--rows",
                rows.ToString(),
                "--page-size",
                "250",
                "--tenants",
                "40",
                "--limit",
                "50/1",
                "--latency",
                "4",
                "--jitter",
                "8",
                .. refusal is null ? Array.Empty<string>() : ["--refusal", refusal],
            ],
            cancel);
        terminal.Out.Say($"[bold]The stand-in cloud[/] of Brackwater Freight listens at {standIn.Address} and has {rows:N0} consignments.");
        if (refusal is null)
            terminal.Out.Say(
                $"Running {Path.GetRelativePath(Environment.CurrentDirectory, job)} against it, twice: a day passes in between.\n");
        else
            terminal.Out.Say(
                $"It refuses on purpose: {refusal}. This is check --live --try of {Path.GetRelativePath(Environment.CurrentDirectory, job)}:\n");

        var source = new JobSource(
            job,
            new GivenInputs(
                [],
                [KeyValuePair.Create("cloud", standIn.Address), KeyValuePair.Create("mail", await standIn.MailAsync(cancel))],
                place.Environment));
        if (refusal is not null)
            return await CheckCommand.LiveAsync(place, source.Read(CommandContext.Clock.GetUtcNow()), TimeSpan.Zero, tries: true, cancel);
        var run = new RunCommand(shutdown);
        var (outcome, first) = await run.ExecuteAsync(
            source, StartChoice.New, Path.Combine(folder, "state"), RunLimits.None, place, cancel);
        var second = 0;
        if (outcome == Outcome.Done)
        {
            await standIn.NextDayAsync(cancel);
            terminal.Out.MarkupLine(
                "\n[bold]A day has passed[/] in the stand-in cloud: new bookings, and some consignments are late now.\n");
            (outcome, second) = await run.ExecuteAsync(
                source, StartChoice.New, Path.Combine(folder, "state"), RunLimits.None, place, cancel);
        }

        if (outcome == Outcome.Done)
        {
            ShowRows(terminal.Out, Path.Combine(folder, "reports", "late.csv"));
            terminal.Out.Say(
                $"\n[bold]The report[/] is {Path.GetRelativePath(Environment.CurrentDirectory, Path.Combine(folder, "reports", "activity.html"))}; open it in a browser, and activity.xlsx in a spreadsheet.");
            terminal.Out.Say(
                $"What changed: cursiva runs compare {Pasted(job)} {first} {second} --state {Pasted(Path.Combine(folder, "state"))}");
            terminal.Out.Say($"The mails to the desk: less {Pasted(mailbox)}");
            terminal.Out.Say($"The notices in the exchange: cat {Pasted(notices)}");
        }

        if (outcome == Outcome.Done)
            await new DemoOperations(place, folder, standIn.Address).ShowAsync(Secret, cancel);
        terminal.Out.WriteLine("\nThe stand-in has been stopped.");
        return outcome;
    }

    /// <summary>A path as a command of a message has it.</summary>
    internal static string Pasted(string path) => ShellWord.Of(Path.GetRelativePath(Environment.CurrentDirectory, path));

    private static string CopyExample(string folder)
    {
        Directory.CreateDirectory(folder);
        foreach (var file in Directory.GetFiles(Path.Combine(AppContext.BaseDirectory, "demo")))
            File.Copy(file, Path.Combine(folder, Path.GetFileName(file)), overwrite: true);
        return Path.Combine(folder, "consignments.cursiva.yaml");
    }

    private static void ShowRows(IAnsiConsole console, string path)
    {
        console.Say($"\n[bold]First rows of {Path.GetRelativePath(Environment.CurrentDirectory, path)}[/]");
        foreach (var line in File.ReadLines(path).Take(RowsShown + 1))
            console.WriteLineAsIs("  " + line);
    }
}
