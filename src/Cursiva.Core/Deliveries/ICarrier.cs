using Cursiva.Core.Ledger;

namespace Cursiva.Core.Deliveries;

/// <summary>Takes what is in the outbox to where it goes.</summary>
public interface ICarrier
{
    /// <summary>Sends an entry.</summary>
    /// <param name="files">The paths of its files in the outbox.</param>
    /// <returns>How it ended; what the other side refuses is in it and is not thrown.</returns>
    Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel);

    /// <summary>Looks whether an entry that is in doubt has arrived.</summary>
    /// <returns>Null where the other side cannot be asked.</returns>
    bool? HasArrived(LedgerEntry entry, IReadOnlyList<string> files);
}
