using Cursiva.Core.Deliveries;
using Cursiva.Core.Ledger;

namespace Cursiva.Cli.Rendering;

/// <summary>An entry of a ledger, as JSON has it.</summary>
internal sealed record LedgerLine(string Id, string Delivery, int Run, string To, string State, DateTimeOffset Since, DateTimeOffset At, int Attempts, string Said)
{
    public static LedgerLine Of(LedgerEntry entry) => new(entry.Id, entry.Of, entry.Run, entry.To, LedgerWords.Of(entry.Phase), entry.Since, entry.At, entry.Attempts, entry.Said);
}
