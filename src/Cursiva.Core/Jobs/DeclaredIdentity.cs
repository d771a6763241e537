namespace Cursiva.Core.Jobs;

/// <summary>Who a job signs in as.</summary>
/// <param name="Grant"><c>client_credentials</c> (RFC 6749 section 4.4) or <c>none</c>.</param>
/// <param name="ClientAuth"><c>client_secret_basic</c> or <c>client_secret_post</c> (RFC 6749 section 2.3.1).</param>
/// <param name="Secret">A secret source, never the secret.</param>
public sealed record DeclaredIdentity(string Name, Place Place, string Grant, Uri? TokenEndpoint, string ClientId, string ClientAuth, string Secret, IReadOnlyList<string> Scope)
{
    public const string ClientCredentials = "client_credentials";
    public const string None = "none";
    public const string Basic = "client_secret_basic";
    public const string Post = "client_secret_post";
}
