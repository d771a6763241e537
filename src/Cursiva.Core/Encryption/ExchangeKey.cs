using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace Cursiva.Core.Encryption;

/// <summary>A key of an exchange: public or private RSA or elliptic curve, or a shared secret.</summary>
public sealed class ExchangeKey : IDisposable
{
    /// <summary>Its id, sent and compared as kid; null for none.</summary>
    public string? Id { get; init; }

    /// <summary>The RSA key; null for another kind.</summary>
    public RSA? Rsa { get; init; }

    /// <summary>The key on a curve; null for another kind.</summary>
    public ECDsa? Curve { get; init; }

    /// <summary>The shared secret, 16 to 64 bytes and more; null for another kind.</summary>
    public byte[]? Secret { get; init; }

    /// <summary>The certificate that it came in; null for none.</summary>
    public X509Certificate2? Certificate { get; init; }

    /// <summary>What it is published for: <c>sig</c> or <c>enc</c> (RFC 7517 section 4.2); null where that is not said.</summary>
    public string? Use { get; init; }

    /// <summary>Whether it can open and sign.</summary>
    public bool IsPrivate { get; init; }

    /// <summary>What it is, for people.</summary>
    public string Words =>
        Rsa is { } rsa
            ? $"{Half} RSA key of {rsa.KeySize} bits"
            : Curve is { } curve ? $"{Half} key on a curve of {curve.KeySize} bits" : $"shared key of {Secret!.Length * 8} bits";

    /// <summary>
    /// What tells it from others: its id, or the SHA-256 thumbprint of its certificate, or of the public key (SubjectPublicKeyInfo).
    /// </summary>
    public string Mark =>
        Id ?? (Certificate is { } certificate ? "sha-256 " + certificate.GetCertHashString(HashAlgorithmName.SHA256).ToLowerInvariant()
        : Rsa is { } rsa ? "sha-256 " + Convert.ToHexStringLower(SHA256.HashData(rsa.ExportSubjectPublicKeyInfo()))
        : Curve is { } curve ? "sha-256 " + Convert.ToHexStringLower(SHA256.HashData(curve.ExportSubjectPublicKeyInfo()))
        : "the shared key");

    /// <summary>The same key under an id; both are one key, and disposed together.</summary>
    public ExchangeKey As(string? id) => new()
    {
        Id = id,
        Rsa = Rsa,
        Curve = Curve,
        Secret = Secret,
        Certificate = Certificate,
        IsPrivate = IsPrivate,
        Use = Use,
    };

    private string Half => IsPrivate ? "private" : "public";

    /// <inheritdoc/>
    public void Dispose()
    {
        Rsa?.Dispose();
        Curve?.Dispose();
        Certificate?.Dispose();
        if (Secret is not null)
            CryptographicOperations.ZeroMemory(Secret);
    }
}
