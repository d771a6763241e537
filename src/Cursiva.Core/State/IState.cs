namespace Cursiva.Core.State;

/// <summary>
/// What outlives a run and is shared by those who run jobs: the processes of a machine, or several machines. Documents are opaque to it.
/// Everything is durable when a call returns.
/// </summary>
public interface IState : IAsyncDisposable
{
    /// <summary>The clock that everyone who shares this state goes by.</summary>
    TimeProvider Clock { get; }

    /// <summary>How declared limits hold among all who share this state.</summary>
    ISlots Slots { get; }

    /// <summary>What one at a time may do.</summary>
    ILeases Leases { get; }

    /// <summary>The landings that machines share.</summary>
    ILandings Landings { get; }

    /// <summary>The strands that several machines work on.</summary>
    /// <exception cref="Refusals.RefusedException">The state is of one machine.</exception>
    IStrandQueue Queue { get; }

    /// <summary>The files that machines share.</summary>
    IStateFiles Files { get; }

    /// <summary>What is true for a moment.</summary>
    INotes Notes { get; }

    /// <summary>The document of this kind and key; null where there is none.</summary>
    Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel);

    /// <summary>Writes a document durably, in place of an earlier one.</summary>
    Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel);

    /// <summary>Writes a document only where what is there is what the writer knows.</summary>
    /// <param name="before">The document that the writer knows; null for none.</param>
    /// <returns>Whether it was written.</returns>
    Task<bool> SwapAsync(string kind, string key, byte[]? before, byte[] document, CancellationToken cancel);

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
    Task<IReadOnlyList<byte[]>> ListAsync(string kind, string prefix, CancellationToken cancel) =>
        NewestAsync(kind, prefix, int.MaxValue, cancel);

    /// <summary>The documents with the highest keys that begin with a text, in the order of their keys.</summary>
    /// <param name="most">At most so many.</param>
    Task<IReadOnlyList<byte[]>> NewestAsync(string kind, string prefix, int most, CancellationToken cancel);

    /// <summary>The documents whose key is not before one key and before another, with their keys, in ordinal order.</summary>
    Task<IReadOnlyList<KeyValuePair<string, byte[]>>> RangeAsync(string kind, string from, string before, CancellationToken cancel);

    /// <summary>The same state as the holder of a lease sees it: nothing is written once somebody else has taken that lease.</summary>
    /// <remarks>What it gives is not disposed of; the state that it is of is. Writes throw <see cref="LeaseLostException"/>.</remarks>
    IState Under(ILease lease);
}
