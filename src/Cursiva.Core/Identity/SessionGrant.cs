using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>A sign-in request of the API's own, outside OAuth: its body is what the job says, and nothing of ours is added.</summary>
internal sealed class SessionGrant(TokenEndpoint endpoint) : DirectGrant(endpoint)
{
    public override Task<TokenReply> AskAsync(CancellationToken cancel) => Endpoint.AskAsync([], Circumstances.ApplicationAlone, cancel);
}
