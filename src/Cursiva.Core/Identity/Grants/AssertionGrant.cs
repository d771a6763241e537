using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>The JWT bearer grant (RFC 7523 section 2.1).</summary>
internal sealed class AssertionGrant(DeclaredIdentity identity, TokenEndpoint endpoint, SignInServices services) : DirectGrant(endpoint)
{
    /// <summary>How a job declares it.</summary>
    public static AskedGrant Declared { get; } = new()
    {
        Value = Grants.JwtBearer,
        SignsIn = true,
        Refreshes = false,
        AssertsItself = true,
        Needs = () => [IdentityKeys.PrivateKeyGroup],
        Ask = parts => new AssertionGrant(parts.Identity, parts.Endpoint, parts.Services),
    };

    public override async Task<TokenReply> AskAsync(CancellationToken cancel)
    {
        var assertion = new SignedAssertion(identity, Endpoint.Key!, services.Clock).ForGrant(await Endpoint.Endpoints.TokenAsync(cancel));
        return await Endpoint.AskAsync(
            [new("grant_type", Grants.JwtBearer), new("assertion", services.Redactor.Remember(assertion).Reveal())],
            Circumstances.Asserting,
            cancel);
    }
}
