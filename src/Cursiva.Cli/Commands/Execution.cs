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
    public static void Executes(
        this Command command, CommonOptions common, Func<ParseResult, CommandContext, CancellationToken, Task<Outcome>> work) =>
        command.SetAction(async (parsed, cancel) =>
        {
            try
            {
                await using var place = new CommandContext(parsed, common, Environment.GetEnvironmentVariable);
                var code = await CodeAsync(parsed, place, work, cancel);
                place.Terminal.Events?.End(code);
                return code;
            }
            catch (RefusedException error)
            {
                // Before there was a place to tell it: the environment file.
                var terminal = new Terminal(
                    new Core.Secrets.Redactor(),
                    Environment.GetEnvironmentVariable,
                    common.LogFormOf(parsed, Environment.GetEnvironmentVariable));
                RefusalView.Show(terminal, error.Refusal, new Advice(null, null));
                terminal.Events?.End((int)error.Refusal.Outcome);
                return (int)error.Refusal.Outcome;
            }
        });

    private static async Task<int> CodeAsync(
        ParseResult parsed,
        CommandContext place,
        Func<ParseResult,
        CommandContext,
        CancellationToken,
        Task<Outcome>> work,
        CancellationToken cancel)
    {
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
            return (int)MistakesView.Show(place.Terminal, error.Mistakes);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException or SqliteException)
        {
            var refusal = place.StateFolder.Refuse(error);
            RefusalView.Show(place.Terminal, refusal, place.Advice);
            return (int)refusal.Outcome;
        }
        catch (Exception error) when ((error as DllNotFoundException ?? error.InnerException) is DllNotFoundException missing)
        {
            RefusalView.Show(
                place.Terminal,
                new Refusal(Outcome.InternalError, $"a library of Cursiva's own is missing or damaged: {missing.Message.Split('\n')[0]}")
                {
                    NextStep = "install Cursiva again, and keep all files of its folder together",
                },
                place.Advice);
            return (int)Outcome.InternalError;
        }
        catch (Exception error) when (error is not OperationCanceledException)
        {
            // Through the writer that knows the secrets: who knows what stands in a message.
            await Fault.TellAsync(place.Terminal, error, place.View.Debug);
            return (int)Outcome.InternalError;
        }
    }
}
