using System.CommandLine;
using Cursiva.Cli;
using Cursiva.Cli.Commands;
using Cursiva.Core.Refusals;

using var shutdown = new Shutdown();
var root = new RootCommand("Runs unattended export jobs: signs in to an API, pages through it within its limits, writes reports.")
{
    new DemoCommand(shutdown).Build(),
    new CheckCommand().Build(),
    new RunCommand(shutdown).Build(),
    new TokenCommand().Build(),
    new SignInCommand().Build(),
    new SecretCommand().Build(),
    new CertCommand().Build(),
};

var parsed = root.Parse(args);
if (parsed.Errors.Count > 0)
{
    foreach (var error in parsed.Errors)
        await Console.Error.WriteLineAsync("cursiva: " + error.Message);
    await Console.Error.WriteLineAsync($"See 'cursiva {string.Join(' ', parsed.CommandResult.Command.Name == root.Name ? [] : new[] { parsed.CommandResult.Command.Name })}{(parsed.CommandResult.Command.Name == root.Name ? "" : " ")}--help'.");
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
    await Console.Error.WriteLineAsync($"cursiva: a fault of ours: {error.GetType().Name}: {error.Message}");
    await Console.Error.WriteLineAsync(args.Contains("debug") ? error.ToString() : "  next: run again with --log debug and report what it prints");
    return (int)Outcome.OurFault;
}
