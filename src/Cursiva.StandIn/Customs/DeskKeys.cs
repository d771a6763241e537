using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text.Json.Nodes;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Customs;

/// <summary>
/// The keys of the customs desk, made when they are first used: one to encrypt under, one to sign with, and one that is not published.
/// </summary>
public sealed class DeskKeys : IDisposable
{
    private readonly Lazy<RSA> _encryption = new(() => RSA.Create(2048));
    private readonly Lazy<Certificates> _certificates;

    public DeskKeys(string? folder)
    {
        _certificates = new Lazy<Certificates>(Issue);
        if (folder is null)
            return;
        Directory.CreateDirectory(folder);
        File.WriteAllText(Path.Combine(folder, "desk.crt"), Desk);
        File.WriteAllText(Path.Combine(folder, "seal.crt"), Seal);
        File.WriteAllText(Path.Combine(folder, "desk-ended.crt"), _certificates.Value.Ended);
        File.WriteAllText(Path.Combine(folder, "desk.pem"), Encryption.ExportSubjectPublicKeyInfoPem());
        File.WriteAllBytes(Path.Combine(folder, "desk.der"), Encryption.ExportSubjectPublicKeyInfo());
        using var other = RSA.Create(2048);
        File.WriteAllText(Path.Combine(folder, "other-environment.pem"), other.ExportSubjectPublicKeyInfoPem());
        File.WriteAllText(Path.Combine(folder, "partner.b64"), Convert.ToBase64String(Partner));
    }

    /// <summary>The key that others encrypt under.</summary>
    public RSA Encryption => _encryption.Value;

    /// <summary>The key that it signs with.</summary>
    public ECDsa Signing { get; } = ECDsa.Create(ECCurve.NamedCurves.nistP256);

    /// <summary>A key that is published nowhere.</summary>
    public ECDsa Other { get; } = ECDsa.Create(ECCurve.NamedCurves.nistP256);

    /// <summary>The key of a partner's HMAC.</summary>
    public byte[] Partner { get; } = SHA256.HashData("a key that the partner was given"u8);

    /// <summary>The certificate that others encrypt under, as PEM.</summary>
    public string Desk => _certificates.Value.Desk;

    /// <summary>The certificate of the signing key, as PEM.</summary>
    public string Seal => _certificates.Value.Seal;

    /// <summary>The public keys as a JSON Web Key Set (RFC 7517).</summary>
    public JsonObject KeySet()
    {
        var (rsa, curve) = (Encryption.ExportParameters(false), Signing.ExportParameters(false));
        return new JsonObject
        {
            ["keys"] = new JsonArray(
                new JsonObject
                {
                    ["kty"] = "RSA",
                    ["use"] = "enc",
                    ["kid"] = "desk-1",
                    ["n"] = Base64UrlEncoder.Encode(rsa.Modulus),
                    ["e"] = Base64UrlEncoder.Encode(rsa.Exponent),
                },
                new JsonObject
                {
                    ["kty"] = "EC",
                    ["use"] = "sig",
                    ["kid"] = "seal-1",
                    ["crv"] = "P-256",
                    ["x"] = Base64UrlEncoder.Encode(curve.Q.X),
                    ["y"] = Base64UrlEncoder.Encode(curve.Q.Y),
                }),
        };
    }

    public void Dispose()
    {
        if (_encryption.IsValueCreated)
            Encryption.Dispose();
        Signing.Dispose();
        Other.Dispose();
    }

    private Certificates Issue()
    {
        using var rootKey = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var rootRequest = new CertificateRequest("CN=Brackwater Customs Root", rootKey, HashAlgorithmName.SHA256);
        rootRequest.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        using var root = rootRequest.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-30), DateTimeOffset.UtcNow.AddYears(5));
        string Issued(CertificateRequest request, X509KeyUsageFlags use, DateTimeOffset until)
        {
            request.CertificateExtensions.Add(new X509KeyUsageExtension(use, true));
            using var certificate = request.Create(
                root.SubjectName,
                X509SignatureGenerator.CreateForECDsa(rootKey),
                DateTimeOffset.UtcNow.AddDays(-2),
                until,
                RandomNumberGenerator.GetBytes(8));
            return certificate.ExportCertificatePem();
        }

        CertificateRequest OfDesk() =>
            new("CN=Brackwater Customs Desk", Encryption, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        return new Certificates(
            Issued(OfDesk(), X509KeyUsageFlags.KeyEncipherment | X509KeyUsageFlags.DataEncipherment, DateTimeOffset.UtcNow.AddYears(1)),
            Issued(
                new CertificateRequest("CN=Brackwater Customs Seal", Signing, HashAlgorithmName.SHA256),
                X509KeyUsageFlags.DigitalSignature,
                DateTimeOffset.UtcNow.AddYears(1)),
            Issued(OfDesk(), X509KeyUsageFlags.KeyEncipherment, DateTimeOffset.UtcNow.AddDays(-1)));
    }

    private sealed record Certificates(string Desk, string Seal, string Ended);
}
