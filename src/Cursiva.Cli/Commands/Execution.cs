using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Microsoft.Data.Sqlite;

namespace Cursiva.Cli.Commands;

/// <summary>Carries out a command's work, and tells what stopped it.</summary>
internal static class Execution
{
    /// <summary>Sets what a command does. Refusals and mistakes become messages and exit codes.</summary>
    public static void Executes(this Command command, CommonOptions common, Func<ParseResult, CommandContext, CancellationToken, Task<Outcome>> work) =>
        command.SetAction(async (parsed, cancel) =>
        {
            try
            {
                await using var place = new CommandContext(parsed, common, Environment.GetEnvironmentVariable);
                try
                {
                    return (int)await work(parsed, place, cancel);
                }
                catch (RefusedException error)
                {
                    RefusalView.Show(place.Terminal, error.Refusal, place.Advice);
                    return (int)error.Refusal.Outcome;
                }
                catch (JobMistakesException error)
                {
                    return (int)MistakesView.Show(place.Terminal.Error, place.Terminal.ErrorIsTerminal, error.Mistakes);
                }
                catch (Exception error) when (error is IOException or UnauthorizedAccessException or SqliteException)
                {
                    RefusalView.Show(place.Terminal, place.StateFolder.Refuse(error), place.Advice);
                    return (int)Outcome.InternalError;
                }
                catch (Exception error) when ((error as DllNotFoundException ?? error.InnerException) is DllNotFoundException missing)
                {
                    RefusalView.Show(place.Terminal, new Refusal(Outcome.InternalError, $"a library of Cursiva's own is missing or damaged: {missing.Message.Split('\n')[0]}") { NextStep = "install Cursiva again, with all files of its folder together" }, place.Advice);
                    return (int)Outcome.InternalError;
                }
                catch (Exception error) when (error is not OperationCanceledException)
                {
                    // Through the writer that knows the secrets: who knows what stands in a message.
                    await Fault.TellAsync(place.Terminal.ErrorWriter, error, place.View.Debug);
                    return (int)Outcome.InternalError;
                }
            }
            catch (RefusedException error)
            {
                // Before there was a place to tell it: the environment file.
                RefusalView.Show(new Terminal(new Core.Secrets.Redactor(), Environment.GetEnvironmentVariable), error.Refusal, new Advice(null, null));
                return (int)error.Refusal.Outcome;
            }
        });
}
