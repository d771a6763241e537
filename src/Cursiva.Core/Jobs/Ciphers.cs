namespace Cursiva.Core.Jobs;

/// <summary>
/// The names of ciphers in the job file: those of older schemes, the registered names of RFC 7518, and those of RFC 9421 section 3.3.
/// </summary>
public static class Ciphers
{
    /// <summary>Nothing is encrypted: for one request of an API whose others are.</summary>
    public const string None = "none";

    /// <summary>JWE in the compact form (RFC 7516 section 7.1).</summary>
    public const string Jwe = "JWE";

    /// <summary>AES-256, every block by itself, with PKCS #7 padding.</summary>
    public const string Ecb = "AES-256-ECB";

    /// <summary>AES-256, chained, with PKCS #7 padding; the vector stands before the cipher text.</summary>
    public const string Cbc = "AES-256-CBC";

    /// <summary>AES-256 in Galois/Counter Mode; the vector stands before the cipher text, and the tag after it.</summary>
    public const string Gcm = "AES-256-GCM";

    /// <summary>A shared key is the content key (RFC 7518 section 4.5).</summary>
    public const string Direct = "dir";

    /// <summary>What a body may be encrypted by.</summary>
    public static IReadOnlyList<string> OfBodies { get; } = [Jwe, Ecb, Cbc, Gcm, None];

    /// <summary>How a session key may be wrapped.</summary>
    public static IReadOnlyList<string> OfSessionKeys { get; } = [Ecb, Cbc, Gcm, Jwe];

    /// <summary>How something short is encrypted under a public key.</summary>
    public static IReadOnlyList<string> UnderPublicKeys { get; } = ["RSA-OAEP-256", "RSA-OAEP", "RSA1_5"];

    /// <summary>How the content key of a JWE is handed over.</summary>
    public static IReadOnlyList<string> OfContentKeys { get; } = [.. UnderPublicKeys, "A128KW", "A256KW", Direct];

    /// <summary>How the content of a JWE is encrypted.</summary>
    public static IReadOnlyList<string> OfContents { get; } =
    [
        "A256GCM",
        "A192GCM",
        "A128GCM",
        "A256CBC-HS512",
        "A192CBC-HS384",
        "A128CBC-HS256",
    ];

    /// <summary>How a JWS is signed.</summary>
    public static IReadOnlyList<string> OfSignedTexts { get; } =
    [
        "RS256",
        "RS384",
        "RS512",
        "PS256",
        "PS384",
        "PS512",
        "ES256",
        "ES384",
        "ES512",
        "HS256",
        "HS384",
        "HS512",
    ];

    /// <summary>How an HTTP message is signed.</summary>
    public static IReadOnlyList<string> OfSignedMessages { get; } =
    [
        "rsa-pss-sha512",
        "rsa-v1_5-sha256",
        "ecdsa-p256-sha256",
        "ecdsa-p384-sha384",
        "hmac-sha256",
    ];
}
