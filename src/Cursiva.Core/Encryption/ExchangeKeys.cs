using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using System.Text.Json;

namespace Cursiva.Core.Encryption;

/// <summary>
/// Reads keys in the forms in which authorities hand them out: PEM (RFC 7468), DER, certificates, PKCS #12, and JWK or JWK sets (RFC 7517).
/// </summary>
public static class ExchangeKeys
{
    /// <summary>Every key of a file.</summary>
    /// <param name="bytes">The file, or the text of a secret.</param>
    /// <param name="password">The password of a private key; null for none.</param>
    /// <exception cref="PayloadException">It is not a key that is known.</exception>
    public static IReadOnlyList<ExchangeKey> Read(byte[] bytes, string? password = null)
    {
        try
        {
            var text = Encoding.UTF8.GetString(bytes).Trim('\uFEFF', ' ', '\r', '\n', '\t');
            if (text.StartsWith('{'))
                return OfJson(text);
            if (text.Contains("-----BEGIN ", StringComparison.Ordinal))
                return [OfPem(text, password)];
            return TryDer(bytes, password) is { } key ? [key]
                : Base64.TryAny(text) is { Length: >= 16 } secret ? [TryDer(secret, password) ?? new ExchangeKey
                {
                    Secret = secret,
                    IsPrivate = true,
                }]
                : throw new PayloadException("it is neither a key in PEM, DER, PKCS #12 or JWK format nor a shared key in base64");
        }
        catch (Exception error) when (error is CryptographicException or JsonException or FormatException or ArgumentException or InvalidOperationException or KeyNotFoundException)
        {
            throw new PayloadException($"the key cannot be read: {error.Message.Split('\n')[0]}", error);
        }
    }

    private static ExchangeKey OfPem(string text, string? password)
    {
        using var certificate = text.Contains("-----BEGIN CERTIFICATE-----", StringComparison.Ordinal)
            ? X509Certificate2.CreateFromPem(text)
            : null;
        var hasPrivate = text.Contains("PRIVATE KEY-----", StringComparison.Ordinal);
        if (!hasPrivate && certificate is not null)
            return OfCertificate(X509CertificateLoader.LoadCertificate(certificate.RawData));
        var isCurve = text.Contains("EC PRIVATE KEY", StringComparison.Ordinal);
        if (!isCurve && TryRsa(text, password) is { } rsa)
            return new ExchangeKey { Rsa = rsa, IsPrivate = hasPrivate };
        var curve = ECDsa.Create();
        if (password is null)
            curve.ImportFromPem(text);
        else
            curve.ImportFromEncryptedPem(text, password);
        return new ExchangeKey { Curve = curve, IsPrivate = hasPrivate };
    }

    private static RSA? TryRsa(string text, string? password)
    {
        var rsa = RSA.Create();
        try
        {
            if (password is null)
                rsa.ImportFromPem(text);
            else
                rsa.ImportFromEncryptedPem(text, password);
            return rsa;
        }
        catch (CryptographicException) when (password is null || !text.Contains("RSA", StringComparison.Ordinal))
        {
            rsa.Dispose();
            return null;
        }
    }

    private static ExchangeKey OfCertificate(X509Certificate2 certificate) => new()
    {
        Certificate = certificate,
        Rsa = certificate.GetRSAPrivateKey() ?? certificate.GetRSAPublicKey(),
        Curve = certificate.GetECDsaPrivateKey() ?? certificate.GetECDsaPublicKey(),
        IsPrivate = certificate.HasPrivateKey,
    };

    private static ExchangeKey? TryDer(byte[] bytes, string? password)
    {
        if (bytes is not [0x30, ..])
            return null;
        switch (ContentOf(bytes))
        {
            case X509ContentType.Cert:
                return OfCertificate(X509CertificateLoader.LoadCertificate(bytes));
            case X509ContentType.Pkcs12:
                return OfCertificate(X509CertificateLoader.LoadPkcs12(bytes, password, X509KeyStorageFlags.EphemeralKeySet));
        }

        return Try(
            rsa => rsa.ImportSubjectPublicKeyInfo(bytes, out _),
            isPrivate: false) ?? Try(rsa => rsa.ImportPkcs8PrivateKey(bytes, out _), isPrivate: true) ?? Try(
            rsa => rsa.ImportRSAPublicKey(bytes, out _), isPrivate: false)
            ?? TryCurve(curve => curve.ImportSubjectPublicKeyInfo(bytes, out _), isPrivate: false) ?? TryCurve(
                curve => curve.ImportPkcs8PrivateKey(bytes, out _), isPrivate: true);
    }

    // What is neither a certificate nor PKCS #12 throws there.
    private static X509ContentType ContentOf(byte[] bytes)
    {
        try
        {
            return X509Certificate2.GetCertContentType(bytes);
        }
        catch (CryptographicException)
        {
            return X509ContentType.Unknown;
        }
    }

    private static ExchangeKey? Try(Action<RSA> import, bool isPrivate)
    {
        var rsa = RSA.Create();
        try
        {
            import(rsa);
            return new ExchangeKey { Rsa = rsa, IsPrivate = isPrivate };
        }
        catch (CryptographicException)
        {
            rsa.Dispose();
            return null;
        }
    }

    private static ExchangeKey? TryCurve(Action<ECDsa> import, bool isPrivate)
    {
        var curve = ECDsa.Create();
        try
        {
            import(curve);
            return new ExchangeKey { Curve = curve, IsPrivate = isPrivate };
        }
        catch (CryptographicException)
        {
            curve.Dispose();
            return null;
        }
    }

    private static List<ExchangeKey> OfJson(string text)
    {
        using var document = JsonDocument.Parse(text);
        return document.RootElement.TryGetProperty("keys", out var keys) ? [.. keys.EnumerateArray().Select(OfJwk).OfType<ExchangeKey>()]
            : [OfJwk(document.RootElement) ?? throw new PayloadException("its kty is not RSA, EC or oct")];
    }

    // A set may have keys of kinds that nobody here uses.
    private static ExchangeKey? OfJwk(JsonElement jwk)
    {
        byte[] Part(string name) => Base64.FromUrl(jwk.GetProperty(name).GetString()!);
        byte[]? Optional(string name) => jwk.TryGetProperty(name, out _) ? Part(name) : null;
        var id = jwk.TryGetProperty("kid", out var kid) ? kid.GetString() : null;
        var use = jwk.TryGetProperty("use", out var published) ? published.GetString() : null;
        switch (jwk.GetProperty("kty").GetString())
        {
            case "RSA":
                var secret = Optional("d");
                var parameters = new RSAParameters { Modulus = Part("n"), Exponent = Part("e") };
                if (secret is not null)
                    parameters = parameters with
                    {
                        D = secret,
                        P = Part("p"),
                        Q = Part("q"),
                        DP = Part("dp"),
                        DQ = Part("dq"),
                        InverseQ = Part("qi"),
                    };
                return new ExchangeKey { Id = id, Use = use, Rsa = RSA.Create(parameters), IsPrivate = secret is not null };
            case "EC":
                var curve = jwk.GetProperty("crv").GetString() switch
                {
                    "P-256" => ECCurve.NamedCurves.nistP256,
                    "P-384" => ECCurve.NamedCurves.nistP384,
                    "P-521" => ECCurve.NamedCurves.nistP521,
                    var other => throw new PayloadException($"the curve {other} is not P-256, P-384 or P-521"),
                };
                var d = Optional("d");
                return new ExchangeKey
                {
                    Id = id,
                    Use = use,
                    Curve = ECDsa.Create(new ECParameters { Curve = curve, Q = new ECPoint { X = Part("x"), Y = Part("y") }, D = d }),
                    IsPrivate = d is not null,
                };
            case "oct":
                return new ExchangeKey { Id = id, Use = use, Secret = Part("k"), IsPrivate = true };
            default:
                return null;
        }
    }
}
