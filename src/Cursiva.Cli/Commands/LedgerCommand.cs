using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;
using Cursiva.Core.Writes;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva ledger JOB</c>.</summary>
internal sealed class LedgerCommand
{
    private readonly CommonOptions _common = new();
    private readonly Option<string?> _sent = new("--sent")
    {
        Description = "the entry, or ENTRY/ITEM of a write, that has arrived and is not sent again",
        HelpName = "ID",
    };
    private readonly Option<string?> _again = new("--again")
    {
        Description = "the entry or item to send again, with the next run or cursiva deliver",
        HelpName = "ID",
    };
    private readonly Option<string?> _drop = new("--drop")
    {
        Description = "the entry or item to give up",
        HelpName = "ID",
    };
    private readonly Option<string?> _items = new("--items")
    {
        Description = "list every item of this entry of a write",
        HelpName = "ID",
    };

    public Command Build()
    {
        var command = new Command("ledger", "Show what was sent and what was not, and decide what is in doubt.")
        {
            _common.Job, _items, _sent, _again, _drop, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Format,
        };
        command.Validators.Add(result =>
        {
            if (new[] { _items, _sent, _again, _drop }.Count(option => result.GetValue(option) is not null) > 1)
                result.AddError("use only one of --items, --sent, --again and --drop");
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
            using var watch = RunView.For(place.Terminal, CommandContext.Clock, place.View, place.Advice, job.Name);
            await new JobDeliveries(job, place.RunOptions(StartChoice.Either), watch).DecideAsync(id, phase, cancel);
        }

        // Also while the job is running.
        var state = await place.OpenStateAsync(cancel);
        var key = new JobFolder(place.StateFolder, job).Key;
        var ledger = new LedgerBook(state, key, state.Clock);
        var items = new ItemDecision(ledger, state, key, state.Clock);
        if (parsed.GetValue(_items) is { } asked)
            await ShowItemsAsync(asked, ledger, items, job, place, cancel);
        else
            await ShowAsync(ledger, items, job, place, cancel);
        return Outcome.Done;
    }

    private static async Task ShowAsync(LedgerBook ledger, ItemDecision items, Job job, CommandContext place, CancellationToken cancel)
    {
        var entries = new List<(LedgerEntry, IReadOnlyList<ItemEntry>)>();
        foreach (var entry in await ledger.EntriesAsync(cancel))
            entries.Add(
                (entry, entry.IsWrite && entry.Phase is not (LedgerPhase.Sent or LedgerPhase.GivenUp)
                    ? await items.ItemsAsync(entry, all: false, cancel)
                    : []));
        place.LedgerView(job).Show(entries, "The ledger is empty.");
    }

    private static async Task ShowItemsAsync(
        string id, LedgerBook ledger, ItemDecision items, Job job, CommandContext place, CancellationToken cancel)
    {
        if (await ledger.FindAsync(id, cancel) is not { IsWrite: true } entry)
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"the ledger has no write '{id}'") { NextStep = "cursiva ledger JOB" });
        place.LedgerView(job).ShowItems(entry, await items.ItemsAsync(entry, all: true, cancel));
    }
}
