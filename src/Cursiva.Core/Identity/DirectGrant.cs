namespace Cursiva.Core.Identity;

/// <summary>A grant of one request that leaves nothing behind.</summary>
internal abstract class DirectGrant(TokenEndpoint endpoint) : IGrant
{
    protected TokenEndpoint Endpoint => endpoint;

    public abstract Task<TokenReply> AskAsync(CancellationToken cancel);

    public Task<IAsyncDisposable?> TurnAsync(CancellationToken cancel) => Task.FromResult<IAsyncDisposable?>(null);
}
