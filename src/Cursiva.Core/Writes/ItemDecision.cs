using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Writes;

/// <summary>One item of a write as the ledger tells it, and what somebody decides about it: <c>notices-12/c-1</c>.</summary>
/// <param name="ledgerKey">Names the job in state.</param>
public sealed class ItemDecision(LedgerBook ledger, IState state, string ledgerKey, TimeProvider clock)
{
    private const char Before = '/';

    /// <summary>How an item is named where decisions are taken: the entry, and the values of its key.</summary>
    public static string NameOf(LedgerEntry entry, ItemEntry item) => $"{entry.Id}{Before}{WriteItem.TitleOf(item.Key)}";

    /// <summary>The items of a write that the run of its entry worked on last, in the order of their keys.</summary>
    /// <param name="all">Whether those that need nothing are told, too.</param>
    public async Task<IReadOnlyList<ItemEntry>> ItemsAsync(LedgerEntry entry, bool all, CancellationToken cancel)
    {
        await using var book = new ItemBook(state, ledgerKey, entry.Of, clock);
        return [.. (await book.AllAsync(cancel)).Where(item => item.Run == entry.Run && (all || IsOpen(item))).OrderBy(
            item => item.Key, StringComparer.Ordinal)];
    }

    /// <summary>The entry that a name of an item begins with; null where there is none.</summary>
    public async Task<LedgerEntry?> EntryOfAsync(string name, CancellationToken cancel) =>
        (await ledger.EntriesAsync(cancel)).LastOrDefault(
            entry => entry.IsWrite && name.StartsWith(entry.Id + Before, StringComparison.Ordinal));

    /// <summary>
    /// Enters a decision about one item. The entry of its write follows: it is in doubt for as long as one of its items is.
    /// </summary>
    /// <param name="name">As <see cref="NameOf"/> has it, or with the key as a JSON array.</param>
    /// <param name="phase">Sent, ready (to be sent again) or given up.</param>
    /// <returns>The entry as it is now.</returns>
    /// <exception cref="RefusedException">There is no such item, or nothing is to be decided about it.</exception>
    public async Task<LedgerEntry> TakeAsync(LedgerEntry entry, string name, LedgerPhase phase, CancellationToken cancel)
    {
        var key = name[(entry.Id.Length + 1)..];
        var items = await ItemsAsync(entry, all: true, cancel);
        List<ItemEntry> meant = [.. items.Where(item => item.Key == key)];
        if (meant.Count == 0)
            meant = [.. items.Where(item => WriteItem.TitleOf(item.Key) == key)];
        if (meant.Count != 1)
            throw Refuse(
                meant.Count == 0
                    ? $"the write {entry.Id} has no item '{key}'"
                    : $"{meant.Count} items of {entry.Id} are called '{key}': write the key as JSON, {meant[0].Key}",
                entry);
        if (!IsOpen(meant[0]))
            throw Refuse($"there is nothing to decide about {name}: it is {WriteWords.Of(meant[0].Phase)}", entry);
        await using (var book = new ItemBook(state, ledgerKey, entry.Of, clock))
            await book.EnterAsync(Decided(meant[0], phase));
        return await FollowAsync(entry, meant[0], cancel);
    }

    /// <summary>An item as somebody decided.</summary>
    internal static ItemEntry Decided(ItemEntry item, LedgerPhase phase) => phase switch
    {
        LedgerPhase.Ready => item with { Phase = ItemPhase.Ready, Said = "" },
        LedgerPhase.Sent => item with { Phase = ItemPhase.Sent, Said = "decided by hand" },
        _ => item with { Phase = ItemPhase.Skipped, Said = "dropped by hand" },
    };

    private static bool IsOpen(ItemEntry item) => item.Phase is ItemPhase.InDoubt or ItemPhase.Sending or ItemPhase.Refused;

    private async Task<LedgerEntry> FollowAsync(LedgerEntry entry, ItemEntry decided, CancellationToken cancel)
    {
        var left = await ItemsAsync(entry, all: true, cancel);
        var doubts = left.Count(item => item.Phase is ItemPhase.InDoubt or ItemPhase.Sending);
        var refused = left.Count(item => item.Phase == ItemPhase.Refused);
        var phase = doubts > 0 ? LedgerPhase.InDoubt
            : left.Any(item => item.Phase == ItemPhase.Ready) || entry.Phase == LedgerPhase.Ready ? LedgerPhase.Ready
            : refused > 0 ? LedgerPhase.Refused
            : LedgerPhase.Sent;
        var rest = new[] { (doubts, "in doubt"), (refused, "refused") }.Where(count => count.Item1 > 0).Select(
            count => $"{count.Item1:N0} {count.Item2}");
        return await ledger.MoveAsync(
            phase == LedgerPhase.Ready ? entry with { Since = clock.GetUtcNow() } : entry,
            phase,
            $"{WriteItem.TitleOf(decided.Key)} decided by hand{string.Concat(rest.Select(words => ", " + words))}");
    }

    private static RefusedException Refuse(string what, LedgerEntry entry) =>
        new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = $"cursiva ledger JOB --items {entry.Id}" });
}
