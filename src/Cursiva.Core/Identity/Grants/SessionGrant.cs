using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>A sign-in request of the API's own, outside OAuth: its body is what the job says, and nothing of ours is added.</summary>
internal sealed class SessionGrant(TokenEndpoint endpoint) : DirectGrant(endpoint)
{
    /// <summary>How a job declares it.</summary>
    public static AskedGrant Declared { get; } = new()
    {
        Value = Grants.Session,
        SignsIn = true,
        Refreshes = false,
        Needs = () => [IdentityKeys.TokenParameters],
        Ask = parts => new SessionGrant(parts.Endpoint),
    };

    public override Task<TokenReply> AskAsync(CancellationToken cancel) => Endpoint.AskAsync([], Circumstances.ApplicationAlone, cancel);
}
