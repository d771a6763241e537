using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>The client credentials grant (RFC 6749 section 4.4).</summary>
internal sealed class ClientCredentialsGrant(TokenEndpoint endpoint) : DirectGrant(endpoint)
{
    /// <summary>How a job declares it.</summary>
    public static AskedGrant Declared { get; } = new()
    {
        Value = Grants.ClientCredentials,
        SignsIn = true,
        Refreshes = false,
        NeedsProof = true,
        Needs = () => [IdentityKeys.ClientId],
        Ask = parts => new ClientCredentialsGrant(parts.Endpoint),
    };

    public override Task<TokenReply> AskAsync(CancellationToken cancel) =>
        Endpoint.AskAsync([new("grant_type", Grants.ClientCredentials)], Circumstances.ApplicationAlone, cancel);
}
