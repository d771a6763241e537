using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva ledger JOB</c>.</summary>
internal sealed class LedgerCommand
{
    private readonly CommonOptions _common = new();
    private readonly Option<string?> _sent = new("--sent") { Description = "the entry that has arrived: it is not sent again", HelpName = "ID" };
    private readonly Option<string?> _again = new("--again") { Description = "the entry that has not arrived: it is sent again, by the next run or cursiva deliver", HelpName = "ID" };
    private readonly Option<string?> _drop = new("--drop") { Description = "the entry that nobody needs any more", HelpName = "ID" };

    public Command Build()
    {
        var command = new Command("ledger", "Look at what left the machine and what did not, and decide what is in doubt.")
        {
            _common.Job, _sent, _again, _drop, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Format,
        };
        command.Validators.Add(result =>
        {
            if (new[] { _sent, _again, _drop }.Count(option => result.GetValue(option) is not null) > 1)
                result.AddError("decide one entry at a time: --sent, --again or --drop");
        });
        command.Executes(_common, ExecuteAsync);
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var job = place.ReadJob(parsed.GetValue(_common.Job)!);
        foreach (var (option, phase) in new[] { (_sent, LedgerPhase.Sent), (_again, LedgerPhase.Ready), (_drop, LedgerPhase.GivenUp) })
        {
            if (parsed.GetValue(option) is not { } id)
                continue;
            using var watch = RunView.For(place.Terminal, CommandContext.Clock, place.View, job.Name);
            await new JobDeliveries(job, place.RunOptions(StartChoice.Either), watch).DecideAsync(id, phase, cancel);
        }

        LedgerView.Show(place.Terminal.Out, place.Json, await EntriesAsync(job, place, cancel), job.Zone, "The ledger is empty.");
        return Outcome.Done;
    }

    // Also while the job is running.
    private static async Task<IReadOnlyList<LedgerEntry>> EntriesAsync(Job job, CommandContext place, CancellationToken cancel)
    {
        place.StateFolder.Prepare(place.Disk);
        await using var state = SqliteState.Open(place.StateFolder.Database);
        return await new LedgerBook(state, new JobFolder(place.StateFolder, job).Key, CommandContext.Clock).EntriesAsync(cancel);
    }
}
