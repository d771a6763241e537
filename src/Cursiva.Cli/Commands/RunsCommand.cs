using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva runs list|show|compare|prune|watch|stop</c>.</summary>
internal sealed class RunsCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<int> _number = new("RUN") { Description = "the number of a run" };
    private readonly Argument<int> _before = new("BEFORE") { Description = "the number of the earlier run" };
    private readonly Argument<int> _now = new("NOW") { Description = "the number of the later run" };
    private readonly Option<string?> _pull = new("--pull")
    {
        Description = "the pull to compare [every pull with a key]",
    };
    private readonly Option<string[]> _key = new("--key")
    {
        Description = "the columns that identify a row",
        AllowMultipleArgumentsPerToken = true,
        DefaultValueFactory = _ => [],
    };
    private readonly Option<int> _rows = new("--rows")
    {
        Description = "the most added rows, removed rows and changed values to list",
        DefaultValueFactory = _ => 20,
    };

    private readonly Option<Keep?> _keep = new("--retain")
    {
        Description = "how many good runs, or what age, to retain [as the job says]",
        CustomParser = result =>
        {
            if (Keep.TryParse(result.Tokens.Single().Value) is { } keep)
                return keep;
            result.AddError($"--retain '{result.Tokens.Single().Value}': {Keep.Right}");
            return null;
        },
    };

    public Command Build()
    {
        var show = Leaf("show", "Show the record of a run.", [_number]);
        show.Executes(_common, async (parsed, place, cancel) =>
        {
            var runs = await OpenAsync(parsed, place, cancel);
            var run = runs.Find(parsed.GetValue(_number));
            RunsView.ShowOne(place.Terminal.Out, place.Json, runs, run with { Warnings = [.. run.Warnings.Select(place.Advice.Of)] });
            return Outcome.Done;
        });
        var compare = Leaf("compare", "Compare the landed rows of two runs.", [_before, _now], _pull, _key, _rows);
        compare.Validators.Add(result =>
        {
            if (result.GetValue(_key) is { Length: > 0 } && result.GetValue(_pull) is null)
                result.AddError("--key belongs to a pull: add --pull NAME");
            if (result.GetValue(_rows) is < 0 or > 100_000)
                result.AddError("--rows must be a whole number from 0 to 100000");
        });
        compare.Executes(_common, CompareAsync);
        var prune = Leaf("prune", "Remove the landed rows of runs that nobody needs; their records stay.", [], _keep);
        prune.Executes(_common, PruneAsync);
        return new Command("runs", "List and show runs, watch or stop one, and compare or remove what they landed.")
        {
            new RunsListCommand(_common).Build(),
            show,
            compare,
            prune,
            new RunningCommands(_common).Watch(),
            new RunningCommands(_common).Stop(),
        };
    }

    private async Task<Outcome> CompareAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var runs = await OpenAsync(parsed, place, cancel);
        List<string> key = [.. parsed.GetValue(_key)!.SelectMany(
            text => text.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))];
        var (before, now) = (parsed.GetValue(_before), parsed.GetValue(_now));
        foreach (var number in new[] { before, now })
            await new SharedLandings(await place.OpenStateAsync(cancel), runs.Folder, place.Disk).BringForAsync(
                runs.Job, runs.Records, number, cancel);
        var differences = new RunComparison(runs, place.RunOptions(StartChoice.Either)).Compare(
            before, now, parsed.GetValue(_pull), key, parsed.GetValue(_rows), cancel);
        RunsView.ShowDifferences(place.Terminal.Out, place.Json, differences);
        return Outcome.Done;
    }

    private async Task<Outcome> PruneAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var runs = await OpenAsync(parsed, place, cancel);
        var keep = parsed.GetValue(_keep) ?? runs.Job.Keep;
        var options = place.RunOptions(StartChoice.Either);
        options.Disk.CreateFolder(runs.Folder.Path);
        var state = await place.OpenStateAsync(cancel);
        var answer = await state.Leases.TryTakeAsync(runs.Folder.Lease, options.Holder, null, cancel);
        await using var held = answer.Lease
            ?? throw new RefusedException(
                new Refusal(Outcome.AlreadyRunning, $"the job is running{(answer.HeldBy.Length > 0 ? $": {answer.HeldBy}" : "")}")
                {
                    NextStep = "wait until it has ended",
                });
        var removed = await new RunPruner(runs.Job, runs.Folder, options).PruneAsync(
            runs.Records, keep, new SharedLandings(state, runs.Folder, place.Disk), cancel);
        RunsView.ShowPruned(place.Terminal.Out, place.Json, removed, keep);
        return Outcome.Done;
    }

    private async Task<JobRuns> OpenAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var job = place.ReadJob(parsed.GetValue(_common.Job)!);
        var state = await place.OpenStateAsync(cancel);
        return await JobRuns.OpenAsync(job, place.StateFolder, state, cancel);
    }

    private Command Leaf(string name, string description, IEnumerable<Argument> arguments, params IEnumerable<Option> options)
    {
        var command = new Command(name, description) { _common.Job };
        foreach (var argument in arguments)
            command.Add(argument);
        foreach (var option in options.Concat([_common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Format]))
            command.Add(option);
        return command;
    }
}
