namespace Cursiva.Core.State;

/// <summary>Something that this process alone may do, until it is disposed of or lost.</summary>
public interface ILease : IAsyncDisposable
{
    /// <summary>What it is for.</summary>
    string Name { get; }

    /// <summary>Grows with every holder: what an earlier holder wrote can be told from what this one writes.</summary>
    long Fence { get; }

    /// <summary>Is cancelled when it is no longer sure that nobody else has it.</summary>
    CancellationToken Lost { get; }

    /// <summary>Makes sure that it is still held: to be asked right before something that cannot be taken back.</summary>
    /// <exception cref="LeaseLostException">It is no longer sure.</exception>
    void Require();
}
