using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>The resource owner password credentials grant (RFC 6749 section 4.3).</summary>
internal sealed class PasswordGrant(DeclaredIdentity identity, TokenEndpoint endpoint, SignInServices services) : DirectGrant(endpoint)
{
    /// <summary>How a job declares it.</summary>
    public static AskedGrant Declared { get; } = new()
    {
        Value = Grants.Password,
        SignsIn = true,
        Refreshes = false,
        Needs = () => [IdentityKeys.ClientId, IdentityKeys.Username, IdentityKeys.Password],
        Ask = parts => new PasswordGrant(parts.Identity, parts.Endpoint, parts.Services),
    };

    public override async Task<TokenReply> AskAsync(CancellationToken cancel) => await Endpoint.AskAsync(
        [
            new("grant_type", Grants.Password),
            new("username", identity.Username!),
            new("password", (await services.Secrets.ReadAsync(identity.Password!, cancel)).Reveal()),
        ],
        Circumstances.PasswordSent,
        cancel);
}
