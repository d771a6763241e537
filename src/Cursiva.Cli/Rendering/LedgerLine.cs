using Cursiva.Core.Ledger;
using Cursiva.Core.Writes;

namespace Cursiva.Cli.Rendering;

/// <summary>An entry of a ledger, as JSON has it.</summary>
/// <param name="Items">The items of a write that somebody may have to decide about.</param>
internal sealed record LedgerLine(
    string Id,
    string Delivery,
    int Run,
    string To,
    string State,
    DateTimeOffset Since,
    DateTimeOffset At,
    int Attempts,
    string Said,
    IReadOnlyList<ItemLine> Items)
{
    public static LedgerLine Of(LedgerEntry entry) => Of(entry, []);

    public static LedgerLine Of(LedgerEntry entry, IReadOnlyList<ItemEntry> items) =>
        new(
            entry.Id,
            entry.Of,
            entry.Run,
            entry.To,
            LedgerWords.Of(entry.Phase),
            entry.Since,
            entry.At,
            entry.Attempts,
            entry.Said,
            [.. items.Select(item => ItemLine.Of(entry, item))]);
}
