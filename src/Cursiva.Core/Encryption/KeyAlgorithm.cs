namespace Cursiva.Core.Encryption;

/// <summary>How a content key is handed over (RFC 7518 section 4).</summary>
public enum KeyAlgorithm
{
    /// <summary>RSAES-PKCS1-v1_5, for old authorities.</summary>
    Rsa15,

    /// <summary>RSAES OAEP with SHA-1.</summary>
    RsaOaep,

    /// <summary>RSAES OAEP with SHA-256.</summary>
    RsaOaep256,

    /// <summary>AES Key Wrap with a 128-bit key.</summary>
    A128Kw,

    /// <summary>AES Key Wrap with a 256-bit key.</summary>
    A256Kw,

    /// <summary>A shared key is the content key.</summary>
    Direct,
}
