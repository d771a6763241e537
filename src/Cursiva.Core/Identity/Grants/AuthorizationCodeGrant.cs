using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Identity;

/// <summary>
/// The authorization code grant (RFC 6749 section 4.1) with PKCE (RFC 7636): a person signs in once (<see cref="PersonSignIn"/>), and runs
/// live on the refresh token.
/// </summary>
internal static class AuthorizationCodeGrant
{
    /// <summary>How a job declares it.</summary>
    public static AskedGrant Declared { get; } = new()
    {
        Value = Grants.AuthorizationCode,
        SignsIn = true,
        Refreshes = true,
        Needs = () => [IdentityKeys.ClientId],
        Ask = RefreshGrant.Of,
    };
}
