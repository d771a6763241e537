using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>The grants that need one request and leave nothing behind: client credentials, password and jwt-bearer.</summary>
internal sealed class DirectGrant(DeclaredIdentity identity, TokenEndpoint endpoint, SignInServices services) : IGrant
{
    public async Task<TokenReply> AskAsync(CancellationToken cancel)
    {
        List<KeyValuePair<string, string>> parameters = [new("grant_type", identity.Grant)];
        var sent = Circumstances.None;
        switch (identity.Grant)
        {
            case Grants.Password:
                parameters.Add(new("username", identity.Username!));
                parameters.Add(new("password", (await services.Secrets.ReadAsync(identity.Password!, cancel)).Reveal()));
                break;
            case Grants.JwtBearer:
                var assertion = new SignedAssertion(identity, endpoint.Key!, services.Clock).ForGrant(await endpoint.Endpoints.TokenAsync(cancel));
                parameters.Add(new("assertion", services.Redactor.Remember(assertion).Reveal()));
                sent = Circumstances.Asserting;
                break;
            case Grants.ClientCredentials:
                break;
            default:
                throw new InvalidOperationException($"{identity.Grant} is no grant of one request");
        }

        return await endpoint.AskAsync(parameters, sent, cancel);
    }

    public Task<IDisposable?> TurnAsync(CancellationToken cancel) => Task.FromResult<IDisposable?>(null);
}
