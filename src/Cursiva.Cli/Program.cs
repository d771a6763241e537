using System.CommandLine;
using System.CommandLine.Parsing;
using Cursiva.Cli;
using Cursiva.Cli.Commands;
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
    new RunsCommand().Build(),
    new CallCommand().Build(),
    new TokenCommand().Build(),
    new SignInCommand().Build(),
    new SecretCommand().Build(),
    new CertCommand().Build(),
};

// A value that begins with @ is a value: no file is put in its place.
var parsed = root.Parse(args, new ParserConfiguration { ResponseFileTokenReplacer = null });
if (parsed.Errors.Count > 0)
{
    foreach (var error in parsed.Errors)
        await Console.Error.WriteLineAsync("cursiva: " + OneLine.Of(error.Message));
    var path = new List<string>();
    for (var result = parsed.CommandResult; result is not null; result = result.Parent as CommandResult)
        path.Insert(0, result.Command == root ? "cursiva" : result.Command.Name);
    await Console.Error.WriteLineAsync($"See '{string.Join(' ', path)} --help'.");
    return (int)Outcome.WrongCommandLine;
}

try
{
    // Signals are ours: a stop has work to finish, however long that takes.
    return await parsed.InvokeAsync(new InvocationConfiguration { EnableDefaultExceptionHandler = false, ProcessTerminationTimeout = null }, shutdown.Token);
}
catch (OperationCanceledException) when (shutdown.Token.IsCancellationRequested)
{
    return (int)shutdown.Outcome;
}
catch (Exception error)
{
    await Fault.TellAsync(Console.Error, error, args.Contains("debug"));
    return (int)Outcome.OurFault;
}
