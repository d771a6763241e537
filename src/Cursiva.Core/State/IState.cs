namespace Cursiva.Core.State;

/// <summary>
/// What outlives a run and is shared by the processes of a machine. Documents are opaque to it; slots are how declared limits
/// hold across processes. Everything is durable when a call returns.
/// </summary>
public interface IState : IAsyncDisposable
{
    Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel);

    Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel);

    /// <summary>Removes a document.</summary>
    /// <returns>Whether there was one.</returns>
    Task<bool> DeleteAsync(string kind, string key, CancellationToken cancel);

    /// <summary>The documents whose key begins with <paramref name="prefix"/>, by key in ordinal order.</summary>
    Task<IReadOnlyList<byte[]>> ListAsync(string kind, string prefix, CancellationToken cancel);

    /// <summary>Takes one slot of every window, or none.</summary>
    /// <param name="heldUntil">When the slots are free again if their holder is never heard of again.</param>
    /// <param name="givenBack">Slots to give back first, in the same transaction.</param>
    Task<SlotAnswer> TakeSlotsAsync(IReadOnlyList<SlotWindow> windows, DateTimeOffset now, Func<SlotWindow, DateTimeOffset> heldUntil, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel);
}
