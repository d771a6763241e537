using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>The client credentials grant (RFC 6749 section 4.4).</summary>
internal sealed class ClientCredentialsGrant(TokenEndpoint endpoint) : DirectGrant(endpoint)
{
    public override Task<TokenReply> AskAsync(CancellationToken cancel) =>
        Endpoint.AskAsync([new("grant_type", Grants.ClientCredentials)], Circumstances.ApplicationAlone, cancel);
}
