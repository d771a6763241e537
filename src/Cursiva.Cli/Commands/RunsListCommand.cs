using System.CommandLine;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva runs list</c>.</summary>
internal sealed class RunsListCommand(CommonOptions common)
{
    private static readonly TimeSpan s_usually = TimeSpan.FromDays(7);

    private readonly Argument<string?> _job = new("JOB")
    {
        Description = "the job file, NAME.cursiva.yaml",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private readonly Option<bool> _allJobs = new("--all-jobs")
    {
        Description = "the runs of every job in the state folder, by start",
    };

    private readonly Option<DateTimeOffset?> _since = new("--since")
    {
        Description = "only runs that began since a day, such as 2026-03-01, or within an age, such as 7d [with --all-jobs: 7d]",
        CustomParser = result =>
        {
            var text = result.Tokens.Single().Value;
            if (Days.TryParse(text) is { } day)
                return day;
            if (Durations.TryParse(text) is { } age)
                return TimeProvider.System.GetUtcNow() - age;
            result.AddError($"--since '{text}' is neither a day nor an age; write 2026-03-01 or 7d");
            return null;
        },
    };

    public Command Build()
    {
        var command = new Command("list", "List the runs of a job, or of all jobs.")
        {
            _job,
            _since,
            _allJobs,
            common.Input,
            common.InputsFrom,
            common.EnvFile,
            common.State,
            common.Format,
        };
        command.Validators.Add(result =>
        {
            if (result.GetValue(_job) is null != result.GetValue(_allJobs))
                result.AddError(
                    result.GetValue(_allJobs) ? "--all-jobs covers every job; omit JOB" : "name a job, or add --all-jobs");
        });
        command.Executes(common, WorkAsync);
        return command;
    }

    private async Task<Outcome> WorkAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        if (parsed.GetValue(_allJobs))
        {
            var all = await place.OpenStateToReadAsync(cancel);
            ShowHistory(
                place,
                await new HistoryBook(all).SinceAsync(
                    parsed.GetValue(_since) ?? CommandContext.Clock.GetUtcNow() - s_usually, null, cancel));
            return Outcome.Done;
        }

        var job = place.ReadJob(parsed.GetValue(_job)!);
        var state = await place.OpenStateAsync(cancel);
        var runs = await JobRuns.OpenAsync(job, place.StateFolder, state, cancel);
        RunsView.ShowList(
            place.Terminal.Out,
            place.Json,
            parsed.GetValue(_since) is { } since ? runs with { Records = [.. runs.Records.Where(run => run.StartedAt >= since)] } : runs);
        return Outcome.Done;
    }

    private static void ShowHistory(CommandContext place, IReadOnlyList<HistoryLine> lines)
    {
        if (place.Json)
            place.Terminal.Out.WriteLinesAsIs(JsonSerializer.Serialize([.. lines], CliJson.Default.HistoryLineArray));
        else
            RunsView.ShowHistory(place.Terminal.Out, lines);
    }
}
