using Cursiva.Core.Jobs;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>How the client proves itself to the authorization server (RFC 6749 section 2.3, RFC 7523 section 2.2, RFC 8705).</summary>
internal sealed class ClientProof(
    DeclaredIdentity identity, IReadOnlyList<string> methods, SigningKey? key, Redactor redactor, TimeProvider clock)
{
    private const string AssertionType = "urn:ietf:params:oauth:client-assertion-type:jwt-bearer";

    /// <summary>The methods that are used.</summary>
    public IReadOnlyList<string> Methods => methods;

    /// <summary>The methods of an identity, or the one that the server's metadata leave where the job does not say.</summary>
    /// <param name="offered">The methods that the metadata name; null when they name none.</param>
    public static IReadOnlyList<string> MethodsOf(DeclaredIdentity identity, IReadOnlyList<string>? offered) =>
        identity.MayLearnClientAuth && offered is not null && !offered.Contains(ClientAuths.Basic) && offered.Contains(ClientAuths.Post)
            ? [ClientAuths.Post]
            : identity.ClientAuth;

    /// <summary>Adds to a request what proves the client.</summary>
    /// <param name="secret">The client secret, where there is one.</param>
    public void Add(
        List<KeyValuePair<string, string>> headers, List<KeyValuePair<string, string>> parameters, Uri tokenEndpoint, SecretText? secret)
    {
        var inHeader = methods.Contains(ClientAuths.Basic);
        if (inHeader)
        {
            var basic = BasicCredentials.Write(identity.ClientId, secret!.Reveal());
            redactor.Remember(basic["Basic ".Length..]);
            headers.Add(new("Authorization", basic));
        }

        if (identity.ClientId.Length > 0 && (!inHeader || methods.Count > 1))
            parameters.Add(new("client_id", identity.ClientId));
        if (methods.Contains(ClientAuths.Post))
            parameters.Add(new("client_secret", secret!.Reveal()));
        if (!methods.Contains(ClientAuths.PrivateKeyJwt))
            return;
        parameters.Add(new("client_assertion_type", AssertionType));
        parameters.Add(
            new("client_assertion", redactor.Remember(new SignedAssertion(identity, key!, clock).ForClient(tokenEndpoint)).Reveal()));
    }
}
