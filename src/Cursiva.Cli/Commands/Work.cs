using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary>Carries out a command's work, and tells what stopped it.</summary>
internal static class Work
{
    /// <summary>Sets what a command does. Refusals and mistakes become messages and exit codes.</summary>
    public static void SetWork(this Command command, CommonOptions common, Func<ParseResult, Workplace, CancellationToken, Task<Outcome>> work) =>
        command.SetAction(async (parsed, cancel) =>
        {
            try
            {
                await using var place = new Workplace(parsed, common);
                try
                {
                    return (int)await work(parsed, place, cancel);
                }
                catch (RefusedException error)
                {
                    RefusalView.Show(place.Terminal, error.Refusal, null);
                    return (int)error.Refusal.Outcome;
                }
                catch (JobMistakesException error)
                {
                    return (int)MistakesView.Show(place.Terminal.Error, place.Terminal.ErrorIsTerminal, error.Mistakes);
                }
            }
            catch (RefusedException error)
            {
                // Before there was a place to tell it: the environment file.
                RefusalView.Show(new Terminal(new Core.Secrets.Redactor(), Environment.GetEnvironmentVariable), error.Refusal, null);
                return (int)error.Refusal.Outcome;
            }
        });
}
