using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Files;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.State;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Writes;

/// <summary>Enters the writes of runs into the ledger, and works on what is there.</summary>
/// <param name="outbox">What is to leave.</param>
/// <param name="clientOf">The client for an item of a write, by the item's values.</param>
/// <param name="told">Is told what is planned, and what came of it.</param>
public sealed class WriteDesk(
    Job job,
    LedgerBook ledger,
    IState state,
    string ledgerKey,
    SignInServices services,
    Outbox outbox,
    Func<Write,
    Func<string,
    string?>,
    CancellationToken,
    Task<ApiClient>> clientOf,
    Action<string> told)
{
    private const string ItemsFile = "items.jsonl";

    /// <summary>Enters the items of a run, as they are now. Nothing is sent.</summary>
    /// <param name="extracts">The file of items of each write, by its name.</param>
    public async Task EnterAsync(int run, IReadOnlyDictionary<string, string> extracts, CancellationToken cancel)
    {
        var before = await ledger.EntriesAsync(cancel);
        foreach (var write in job.Writes.Where(write => extracts.ContainsKey(write.Name)))
        {
            var id = string.Create(CultureInfo.InvariantCulture, $"{write.Name}-{run}");

            // What was entered by an earlier start of the same run may be on its way already.
            if (before.Any(entry => entry.Id == id))
                continue;
            var count = 0;
            outbox.Put(id, 0, stream =>
            {
                using var source = File.OpenRead(extracts[write.Name]);
                source.CopyTo(stream);
            });
            outbox.Close(id);
            await outbox.ShareAsync(id, cancel);
            count = File.ReadLines(extracts[write.Name]).Count();
            await ledger.AddAsync(
                new LedgerEntry(
                    id,
                    write.Name,
                    run,
                    $"{write.Api}: {count:N0} {(count == 1 ? "item" : "items")}",
                    "",
                    [ItemsFile],
                    services.Clock.GetUtcNow())
                { IsWrite = true },
                cancel);
        }
    }

    /// <summary>Works on whatever is pending.</summary>
    /// <param name="but">The entries that are left for later.</param>
    /// <returns>The entries that were worked on.</returns>
    public async Task<IReadOnlyList<LedgerEntry>> SendAsync(IReadOnlyList<string> but, CancellationToken cancel)
    {
        var handled = new List<LedgerEntry>();
        foreach (var pending in (await ledger.EntriesAsync(cancel)).Where(
            entry => entry.IsPending && entry.IsWrite && !but.Contains(entry.Id)))
        {
            cancel.ThrowIfCancellationRequested();
            if (job.Writes.FirstOrDefault(write => write.Name == pending.Of) is not { } write)
                handled.Add(pending with { Said = $"the job no longer has a write '{pending.Of}'" });
            else if (pending.Phase == LedgerPhase.Ready && services.Clock.GetUtcNow() - pending.Since > write.Within)
                handled.Add(
                    await ledger.MoveAsync(
                        pending,
                        LedgerPhase.GivenUp,
                        $"not done within {Durations.ForPeople(write.Within)}; {pending.Said}".TrimEnd(' ', ';')));
            else
                handled.Add(await SendAsync(pending, write, cancel));
            if (handled[^1].Phase is LedgerPhase.Sent or LedgerPhase.GivenUp)
                await outbox.RemoveAsync(pending.Id);
        }

        return handled;
    }

    /// <summary>Plans what a write would change, and changes and notes nothing.</summary>
    /// <param name="items">The file of its items.</param>
    /// <param name="into">The file that takes the requests, a line of JSON each.</param>
    /// <param name="asks">Whether looks are taken; otherwise every request is shown that might be sent.</param>
    /// <returns>The plan on one line.</returns>
    public async Task<string> PlanAsync(Write write, int run, string items, string into, bool asks, CancellationToken cancel)
    {
        await using var book = new ItemBook(state, ledgerKey, write.Name, services.Clock) { IsDry = true };
        using var inFlight = new SemaphoreSlim(write.Parallel, write.Parallel);
        var context = new WriteContext(
            job.Name,
            job.Inputs.Select(input => input.Name).ToHashSet(StringComparer.Ordinal),
            write,
            book,
            services,
            new DocumentSchemas(services.Folder),
            inFlight);
        Directory.CreateDirectory(Path.GetDirectoryName(into)!);
        return await new WriteBatch(context, job.Inputs, clientOf, told).ShowAsync(
            new LedgerEntry($"{write.Name}-{run}", write.Name, run, write.Api, "", [], services.Clock.GetUtcNow()) { IsWrite = true },
            items,
            into,
            asks,
            cancel);
    }

    /// <summary>What became of each item in a run.</summary>
    public async Task<IReadOnlyList<WrittenRow>> RowsAsync(int run, IReadOnlyDictionary<string, string> extracts, CancellationToken cancel)
    {
        var rows = new List<WrittenRow>();
        foreach (var write in job.Writes.Where(write => extracts.ContainsKey(write.Name)))
        {
            await using var book = new ItemBook(state, ledgerKey, write.Name, services.Clock);
            var keys = new HashSet<string>(StringComparer.Ordinal);
            foreach (var item in ItemFile.Read(extracts[write.Name]))
            {
                keys.Add(item.Key);
                rows.Add(Row(write, item, await book.FindAsync(item.Key, cancel), run));
            }

            if (write.Remove.Count > 0)
                rows.AddRange(
                    (await book.AllAsync(cancel)).Where(entry => entry.Run == run && !keys.Contains(entry.Key)).Select(
                        entry => new WrittenRow(
                            write.Name, entry.Key, entry.Step, WriteWords.Of(entry.Phase), entry.Said.Length > 0 ? entry.Said : null)));
        }

        return rows;
    }

    /// <summary>Enters somebody's decision about a write: all its items that are in doubt or refused.</summary>
    public async Task<LedgerEntry> DecideAsync(LedgerEntry entry, LedgerPhase phase, CancellationToken cancel)
    {
        if (job.Writes.FirstOrDefault(write => write.Name == entry.Of) is { } write)
        {
            await using var book = new ItemBook(state, ledgerKey, write.Name, services.Clock);
            foreach (var item in (await book.AllAsync(cancel)).Where(
                item => item.Run == entry.Run && item.Phase is ItemPhase.InDoubt or ItemPhase.Sending))
                await book.EnterAsync(ItemDecision.Decided(item, phase));
        }

        var decided = await ledger.MoveAsync(
            phase == LedgerPhase.Ready ? entry with { Since = services.Clock.GetUtcNow(), Insists = true } : entry,
            phase,
            "decided by hand");
        if (!decided.IsPending)
            await outbox.RemoveAsync(decided.Id);
        return decided;
    }

    private async Task<LedgerEntry> SendAsync(LedgerEntry entry, Write write, CancellationToken cancel)
    {
        await using var book = new ItemBook(state, ledgerKey, write.Name, services.Clock);
        using var inFlight = new SemaphoreSlim(write.Parallel, write.Parallel);
        var context = new WriteContext(
            job.Name,
            job.Inputs.Select(input => input.Name).ToHashSet(StringComparer.Ordinal),
            write,
            book,
            services,
            new DocumentSchemas(services.Folder),
            inFlight);
        await outbox.BringAsync(entry.Id, cancel);
        var items = outbox.FilesOf(entry)[0];
        entry = await ledger.MoveAsync(entry, LedgerPhase.Sending);
        try
        {
            var (phase, said) = await new WriteBatch(context, job.Inputs, clientOf, told).SendAsync(entry, items, items + ".plan", cancel);
            told($"{entry.Id} is {LedgerWords.Of(phase)}: {said}");
            return await ledger.MoveAsync(entry, phase, said);
        }
        catch (OperationCanceledException)
        {
            await ledger.MoveAsync(entry, LedgerPhase.Ready, "stopped half way");
            throw;
        }
    }

    private static WrittenRow Row(Write write, WriteItem item, ItemEntry? entry, int run)
    {
        var said = entry is { Said.Length: > 0 } ? entry.Said : null;
        if (entry is null || (entry.Run != run && (entry.Phase != ItemPhase.Sent || entry.Digest != item.Digest)))
            return new WrittenRow(write.Name, item.Key, null, WriteWords.Of(ItemPhase.Ready), null);
        return entry.Run != run || entry is { Phase: ItemPhase.Sent, Said: WriteContext.AsItWas }
            ? new WrittenRow(write.Name, item.Key, null, "unchanged", null)
            : new WrittenRow(write.Name, item.Key, entry.Step.Length > 0 ? entry.Step : null, WriteWords.Of(entry.Phase), said);
    }
}
