namespace Cursiva.Core.Encryption;

/// <summary>How content is encrypted (RFC 7518 section 5).</summary>
public enum ContentAlgorithm
{
    /// <summary>AES-128-CBC with HMAC SHA-256.</summary>
    A128CbcHs256,

    /// <summary>AES-192-CBC with HMAC SHA-384.</summary>
    A192CbcHs384,

    /// <summary>AES-256-CBC with HMAC SHA-512.</summary>
    A256CbcHs512,

    /// <summary>AES-128-GCM.</summary>
    A128Gcm,

    /// <summary>AES-192-GCM.</summary>
    A192Gcm,

    /// <summary>AES-256-GCM.</summary>
    A256Gcm,
}
