using Cursiva.Core.Ledger;
using Cursiva.Core.Writes;

namespace Cursiva.Cli.Rendering;

/// <summary>An item of a write, as JSON has it.</summary>
internal sealed record ItemLine(string Id, string Step, string State, DateTimeOffset At, string Said)
{
    public static ItemLine Of(LedgerEntry entry, ItemEntry item) =>
        new(ItemDecision.NameOf(entry, item), item.Step, WriteWords.Of(item.Phase), item.At, item.Said);
}
