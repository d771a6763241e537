using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Checks;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva report JOB</c>.</summary>
internal sealed class ReportCommand(Shutdown shutdown)
{
    private readonly CommonOptions _common = new();
    private readonly Option<int?> _run = new("--run")
    {
        Description = "the number of the run [the newest complete one]",
    };

    private readonly Option<string?> _out = new("--out")
    {
        Description = "a folder for the files; the job's own folder is left alone",
    };

    public Command Build()
    {
        var command = new Command("report", "Write the reports of a run again from its landed rows, without a request.")
        {
            _common.Job, _run, _out, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Log, _common.Format,
        };
        command.Executes(_common, ExecuteAsync);
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var source = JobSource.Of(parsed.GetValue(_common.Job)!, parsed, _common, place.Environment);
        var job = source.Read(CommandContext.Clock.GetUtcNow());
        var mistakes = JobCheck.Check(job);
        if (mistakes.Count > 0)
            throw new JobMistakesException(mistakes);
        using var watch = RunView.For(place.Terminal, CommandContext.Clock, place.View, place.Advice, job.Name);
        var summary = await new ReportAgain(place.RunOptions(StartChoice.Either), watch).ExecuteAsync(
            source.ReadFor, parsed.GetValue(_run), parsed.GetValue(_out) is { } folder ? Path.GetFullPath(folder) : null, cancel);
        if (summary.Outcome == Outcome.Interrupted)
            summary = summary with { Outcome = shutdown.Outcome };
        watch.Dispose();
        new SummaryView(place.Terminal, place.View, place.Advice).Show(summary);
        return summary.Outcome;
    }
}
