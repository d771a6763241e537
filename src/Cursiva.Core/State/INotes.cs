namespace Cursiva.Core.State;

/// <summary>What is true for a moment, told to all who share a state. It need not outlive a crash: after one nobody is at it.</summary>
public interface INotes
{
    /// <summary>A note; null where there is none.</summary>
    /// <param name="name">Names joined by slashes.</param>
    Task<byte[]?> ReadAsync(string name, CancellationToken cancel);

    /// <summary>Leaves a note, in place of an earlier one.</summary>
    Task WriteAsync(string name, byte[] note, CancellationToken cancel);

    /// <summary>Removes a note.</summary>
    Task ClearAsync(string name, CancellationToken cancel);
}
