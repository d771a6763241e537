using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Apis;

/// <summary>How requests get to one API as one identity.</summary>
/// <param name="Identity">Whose limits are counted; null when nobody signs in.</param>
/// <param name="Tokens">The identity's tokens; null when nobody signs in.</param>
/// <param name="Sender">Sends to the API's own origin, with the identity's certificate where it has one.</param>
/// <param name="Bare">Sends to origins that get nothing but the request itself.</param>
public sealed record ApiAccess(DeclaredIdentity? Identity, ITokens? Tokens, Companions Companions, HttpSender Sender, HttpSender Bare)
{
    /// <summary>Encrypts, signs, verifies and opens; null where the API has none of it.</summary>
    public PayloadDesk? Payloads { get; init; }

    /// <summary>Places of the token endpoint's answer that requests take values from, by placeholder.</summary>
    public IReadOnlyDictionary<string, string> TokenFields { get; init; } = new Dictionary<string, string>();
}
