using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>The token of an identity in a rehearsal.</summary>
internal sealed class RehearsedTokens(DeclaredIdentity identity, RehearsedSignIn signIn) : ITokens
{
    /// <inheritdoc/>
    public Task<AccessToken> GetAsync(CancellationToken cancel) => Task.FromResult(signIn.TokenFor(identity.TokenFields));

    /// <inheritdoc/>
    public bool IsGood(AccessToken token) => true;

    /// <inheritdoc/>
    public void Refused(AccessToken token)
    {
        // The recording has what came after the refusal, whoever asks.
    }
}
