using System.CommandLine;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Checks;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva check JOB</c>.</summary>
internal sealed class CheckCommand
{
    private readonly CommonOptions _common = new();

    public Command Build()
    {
        var command = new Command("check", "Read a job closely, and tell every mistake or what the job would do.")
        {
            _common.Job, _common.Input, _common.InputsFrom, _common.Format, _common.Log,
        };
        command.SetAction(parsed =>
        {
            Func<string, string?> environment = Environment.GetEnvironmentVariable;
            var terminal = new Terminal(new Redactor(), environment);
            var json = parsed.GetValue(_common.Format) == "json";
            var (job, mistakes) = Read(JobSource.Of(parsed, _common, environment));
            if (mistakes.Count > 0)
            {
                return (int)(json
                    ? MistakesView.ShowJson(terminal.Out, mistakes)
                    : MistakesView.Show(terminal.Out, terminal.OutIsTerminal, mistakes));
            }

            var account = JobAccount.Of(job!, environment);
            if (json)
                terminal.Out.WriteLineAsIs(JsonSerializer.Serialize(account, CliJson.Default.JobAccount));
            else
                AccountView.Show(terminal.Out, account);
            return (int)Outcome.Done;
        });
        return command;
    }

    private static (Job? Job, IReadOnlyList<Mistake> Mistakes) Read(JobSource source)
    {
        try
        {
            var job = source.Read(TimeProvider.System.GetUtcNow());
            return (job, JobCheck.Check(job));
        }
        catch (JobMistakesException error)
        {
            return (null, error.Mistakes);
        }
    }
}
