namespace Cursiva.Core.State;

/// <summary>No landing is shared: all of them lie on the one machine that there is.</summary>
internal sealed class OwnLandings : ILandings
{
    /// <inheritdoc/>
    public bool IsShared(string landing) => false;

    /// <inheritdoc/>
    public Task AddAsync(string landing, IReadOnlyList<StoredChange> changes, CancellationToken cancel) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task DropAsync(string landing, IReadOnlyList<string> pulls, CancellationToken cancel) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task ForgetSkipsAsync(string landing, CancellationToken cancel) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task<IReadOnlyList<LandingSum>> SumsAsync(string landing, CancellationToken cancel) =>
        Task.FromResult<IReadOnlyList<LandingSum>>([]);

    /// <inheritdoc/>
    public IAsyncEnumerable<StoredStrand> StrandsAsync(string landing, CancellationToken cancel) => AsyncEnumerable.Empty<StoredStrand>();

    /// <inheritdoc/>
    public IAsyncEnumerable<StoredPage> PagesAsync(
        string landing, (string Pull, IReadOnlyList<string> Strands)? some, CancellationToken cancel) =>
        AsyncEnumerable.Empty<StoredPage>();

    /// <inheritdoc/>
    public Task<IReadOnlyList<string>> ListAsync(string prefix, CancellationToken cancel) => Task.FromResult<IReadOnlyList<string>>([]);

    /// <inheritdoc/>
    public Task RemoveAsync(IReadOnlyList<string> landings, CancellationToken cancel) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task ReleaseAsync(string landing, CancellationToken cancel) => Task.CompletedTask;
}
