using System.CommandLine;
using System.CommandLine.Help;
using Cursiva.Cli;
using Cursiva.Cli.Commands;
using Cursiva.Cli.Help;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

StandardStreams.Ensure();
Console.SetError(TextWriter.Synchronized(new LenientWriter(Console.Error)));
using var shutdown = new Shutdown();
var root = new RootCommand("Runs unattended export jobs: signs in to an API, pages through it within its limits, writes reports.")
{
    new DemoCommand(shutdown).Build(),
    new CheckCommand().Build(),
    new RunCommand(shutdown).Build(),
    new ReportCommand(shutdown).Build(),
    new DeliverCommand().Build(),
    new LedgerCommand().Build(),
    new RunsCommand().Build(),
    new OverviewCommand().Build(),
    new ScheduleCommand().Build(),
    new StateCommand().Build(),
    new CallCommand().Build(),
    new DraftCommand().Build(),
    new ShapeCommand().Build(),
    new PayloadCommand().Build(),
    new TokenCommand().Build(),
    new SignInCommand().Build(),
    new SecretCommand().Build(),
    new CertCommand().Build(),
    SchemaCommand.Build(),
};

root.Subcommands.Add(ManualCommand.Build(root));
foreach (var help in root.Options.OfType<HelpOption>().Where(help => help.Action is HelpAction))
    help.Action = new HelpWithExamples((HelpAction)help.Action!);

if (CommandLine.TopicOf(args) is { } topic)
{
    Console.Out.WriteLine(topic);
    return (int)Outcome.Done;
}

// A value that begins with @ is a value: no file is put in its place.
var parsed = root.Parse(CommandLine.WithHelp(args), new ParserConfiguration { ResponseFileTokenReplacer = null });
string[] wrong = CommandLine.UnknownOption(parsed, args) is { } unknown ? [unknown] : [.. parsed.Errors.Select(error => error.Message)];
if (wrong.Length > 0 && EventLines.AreAskedFor(args))
{
    var events = new EventLines(Console.Error, TimeProvider.System);
    foreach (var message in wrong)
        events.Refused(
            new Refusal(Outcome.WrongCommandLine, OneLine.Of(message)) { NextStep = $"see {HelpWithExamples.PathOf(parsed)} --help" },
            null);
    events.End((int)Outcome.WrongCommandLine);
    return (int)Outcome.WrongCommandLine;
}

if (wrong.Length > 0)
{
    foreach (var message in wrong)
        await Console.Error.WriteLineAsync("cursiva: " + OneLine.Of(message));
    await Console.Error.WriteLineAsync($"See '{HelpWithExamples.PathOf(parsed)} --help'.");
    return (int)Outcome.WrongCommandLine;
}

try
{
    // Signals are ours: a stop has work to finish, however long that takes.
    return await parsed.InvokeAsync(
        new InvocationConfiguration { EnableDefaultExceptionHandler = false, ProcessTerminationTimeout = null }, shutdown.Token);
}
catch (OperationCanceledException) when (shutdown.Token.IsCancellationRequested)
{
    if (EventLines.AreAskedFor(args))
        new EventLines(Console.Error, TimeProvider.System).End((int)shutdown.Outcome);
    return (int)shutdown.Outcome;
}
catch (Exception error)
{
    await Fault.TellAsync(Console.Error, error, args.Contains("debug"));
    return (int)Outcome.InternalError;
}
