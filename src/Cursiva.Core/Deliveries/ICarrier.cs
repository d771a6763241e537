using Cursiva.Core.Ledger;

namespace Cursiva.Core.Deliveries;

/// <summary>Takes one way of leaving the machine.</summary>
public interface ICarrier
{
    /// <summary>Puts into the outbox what will leave, as it will leave.</summary>
    /// <returns>Who receives it, and what the outbox holds of it.</returns>
    Task<Packed> PackAsync(Parcel parcel, Outbox outbox, CancellationToken cancel);

    /// <summary>Sends an entry.</summary>
    /// <param name="files">The paths of its files in the outbox.</param>
    /// <returns>How it ended; what the other side refuses is in it and is not thrown.</returns>
    Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel);

    /// <summary>Looks whether an entry that is in doubt has arrived.</summary>
    /// <returns>Null where the other side cannot be asked.</returns>
    Task<bool?> HasArrivedAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel);
}
