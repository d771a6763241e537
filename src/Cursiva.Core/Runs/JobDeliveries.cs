using Cursiva.Core.Deliveries;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Runs;

/// <summary>A job's ledger, between its runs.</summary>
public sealed class JobDeliveries(Job job, RunOptions options, IRunWatch watch)
{
    /// <summary>Sends what is pending.</summary>
    /// <returns>What was sent, and what has something to be done about it, with what stands in its way.</returns>
    /// <exception cref="RefusedException">The job is running.</exception>
    public async Task<(IReadOnlyList<LedgerEntry> Entries, Refusal? Objection)> DeliverAsync(CancellationToken cancel)
    {
        await using var scope = await RunScope.OpenAsync(job, options, cancel);
        await using var stage = new DeliveryStage(job, scope, options, watch);
        var objection = await stage.SendAsync(cancel);
        return (stage.Handled, objection);
    }

    /// <summary>Makes sure that the job has a delivery that tells what overview finds.</summary>
    /// <exception cref="RefusedException">It has none.</exception>
    public void RequireTeller()
    {
        if (job.Deliveries.Any(delivery => delivery.When == DeliveryTime.Late))
            return;
        throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"job '{job.Name}' has no delivery with when: late")
        {
            NextStep = "write one into it: deliveries: { night-watch: { when: late, message: { address: kept:hook } } }",
        });
    }

    /// <summary>Tells what overview found, by the deliveries that have <c>when: late</c>.</summary>
    /// <param name="number">Tells this time from others.</param>
    /// <param name="words">What is told.</param>
    /// <returns>What stands in its way; null where it has left.</returns>
    /// <exception cref="RefusedException">The job is running.</exception>
    public async Task<Refusal?> TellAsync(int number, string words, CancellationToken cancel)
    {
        await using var scope = await RunScope.OpenAsync(job, options, cancel);
        await using var stage = new DeliveryStage(job, scope, options, watch);
        return await stage.TellAsync(number, words, cancel);
    }

    /// <summary>Enters somebody's decision about an entry that has not left, or about one item of a write.</summary>
    /// <param name="id">The entry's, or <c>ENTRY/ITEM</c>.</param>
    /// <param name="phase">Sent, ready (to be sent again) or given up.</param>
    /// <exception cref="RefusedException">There is no such entry, nothing is to be decided about it, or the job is running.</exception>
    public async Task<LedgerEntry> DecideAsync(string id, LedgerPhase phase, CancellationToken cancel)
    {
        await using var scope = await RunScope.OpenAsync(job, options, cancel);
        await using var stage = new DeliveryStage(job, scope, options, watch);
        if (await stage.Ledger.FindAsync(id, cancel) is not { } entry)
            return await stage.DecideItemAsync(id, phase, cancel) ?? throw Refuse($"the ledger has no entry '{id}'");
        if (entry.Phase is LedgerPhase.Sent or LedgerPhase.GivenUp)
            throw Refuse($"there is nothing to decide about {id}: it is {LedgerWords.Of(entry.Phase)}");
        if (phase == LedgerPhase.Ready && entry.Files.Count == 0)
            throw Refuse($"{id} cannot be sent again: nothing was stored for it ({entry.Said})");
        return await stage.DecideAsync(entry, phase, cancel);
    }

    private static RefusedException Refuse(string what) =>
        new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = "cursiva ledger JOB" });
}
