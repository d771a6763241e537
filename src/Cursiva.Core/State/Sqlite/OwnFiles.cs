namespace Cursiva.Core.State;

/// <summary>No file is shared: all of them lie on the one machine that there is.</summary>
internal sealed class OwnFiles : IStateFiles
{
    /// <inheritdoc/>
    public Task PutAsync(string path, CancellationToken cancel) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task BringAsync(string path, CancellationToken cancel) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task RemoveAsync(string path, CancellationToken cancel) => Task.CompletedTask;
}
