namespace Cursiva.Core.State;

/// <summary>
/// What outlives a run and is shared by the processes of a machine. Documents are opaque to it; slots are how declared limits
/// hold across processes. Everything is durable when a call returns.
/// </summary>
public interface IState : IAsyncDisposable
{
    /// <summary>The document of this kind and key; null where there is none.</summary>
    Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel);

    /// <summary>Writes a document durably, in place of an earlier one.</summary>
    Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel);

    /// <summary>Writes several documents durably, in place of earlier ones.</summary>
    async Task WriteAllAsync(string kind, IReadOnlyList<KeyValuePair<string, byte[]>> documents, CancellationToken cancel)
    {
        foreach (var (key, document) in documents)
            await WriteAsync(kind, key, document, cancel);
    }

    /// <summary>Removes a document.</summary>
    /// <returns>Whether there was one.</returns>
    Task<bool> DeleteAsync(string kind, string key, CancellationToken cancel);

    /// <summary>The documents whose key begins with <paramref name="prefix"/>, by key in ordinal order.</summary>
    Task<IReadOnlyList<byte[]>> ListAsync(string kind, string prefix, CancellationToken cancel);

    /// <summary>The documents with the highest keys that begin with a text, in the order of their keys.</summary>
    /// <param name="most">At most so many.</param>
    Task<IReadOnlyList<byte[]>> NewestAsync(string kind, string prefix, int most, CancellationToken cancel);

    /// <summary>The documents whose key is not before one key and before another, with their keys, in ordinal order.</summary>
    Task<IReadOnlyList<KeyValuePair<string, byte[]>>> RangeAsync(string kind, string from, string before, CancellationToken cancel);

    /// <summary>Holds slots for longer: their request is still on its way.</summary>
    /// <returns>The slots as they are held now; one that was taken for lost is left out.</returns>
    Task<IReadOnlyList<Slot>> HoldSlotsAsync(IReadOnlyList<Slot> slots, DateTimeOffset until, CancellationToken cancel);

    /// <summary>How many slots of a bucket are taken at a time.</summary>
    Task<int> CountSlotsAsync(string bucket, DateTimeOffset now, CancellationToken cancel);

    /// <summary>Takes permits, each with one slot of every window or none at all.</summary>
    /// <param name="most">How many are wanted; fewer are taken when there are no more.</param>
    /// <param name="hold">How long after it may leave a request can be on its way; one window later its slots are free, if their holder is never heard of again.</param>
    /// <param name="givenBack">Slots to give back first, in the same transaction. One that another request holds by now stays with it.</param>
    Task<SlotAnswer> TakeSlotsAsync(
        IReadOnlyList<SlotWindow> windows,
        int most,
        DateTimeOffset now,
        TimeSpan hold,
        IReadOnlyList<SlotReturn> givenBack,
        CancellationToken cancel);
}
