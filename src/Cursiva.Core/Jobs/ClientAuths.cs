namespace Cursiva.Core.Jobs;

/// <summary>The values of <c>client-auth:</c>, as they are registered for token endpoints.</summary>
public static class ClientAuths
{
    /// <summary>RFC 6749 section 2.3.1, in a header.</summary>
    public const string Basic = "client_secret_basic";

    /// <summary>RFC 6749 section 2.3.1, among the parameters.</summary>
    public const string Post = "client_secret_post";

    /// <summary>RFC 7523 section 2.2.</summary>
    public const string PrivateKeyJwt = "private_key_jwt";

    /// <summary>RFC 8705 section 2.1.</summary>
    public const string Tls = "tls_client_auth";

    /// <summary>The client has no credentials.</summary>
    public const string None = "none";

    /// <summary>Every way of client authentication, in the order in which they are told.</summary>
    public static IReadOnlyList<string> All { get; } = [Basic, Post, PrivateKeyJwt, Tls, None];
}
