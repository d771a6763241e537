namespace Cursiva.Core.Identity;

/// <summary>How a token is asked for.</summary>
internal interface IGrant
{
    /// <summary>Asks the authorization server for a token.</summary>
    /// <exception cref="Refusals.RefusedException">Something that is needed is not there.</exception>
    Task<TokenReply> AskAsync(CancellationToken cancel);

    /// <summary>A lock that processes of this machine must hold while they ask; null when they may ask side by side.</summary>
    Task<IAsyncDisposable?> TurnAsync(CancellationToken cancel);
}
