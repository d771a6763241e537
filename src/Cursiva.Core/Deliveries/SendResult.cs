using Cursiva.Core.Ledger;

namespace Cursiva.Core.Deliveries;

/// <summary>How sending something ended.</summary>
/// <param name="Phase">Where it stands now: sent, ready (to be tried again later), refused, or in doubt.</param>
/// <param name="Said">What the other side said, or what stood in the way.</param>
public sealed record SendResult(LedgerPhase Phase, string Said)
{
    /// <summary>The recipients who have it, where there are several and not all have it.</summary>
    public IReadOnlyList<string> Taken { get; init; } = [];
}
