using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text.Json.Nodes;
using Microsoft.IdentityModel.Tokens;

namespace Cursiva.StandIn.Customs;

/// <summary>The keys of the customs desk: one that others encrypt under, one that it signs with, and another one that nobody was told of.</summary>
public sealed class DeskKeys : IDisposable
{
    private readonly X509Certificate2 _root;

    public DeskKeys(string? folder)
    {
        using var rootKey = RSA.Create(2048);
        var rootRequest = new CertificateRequest(
            "CN=Brackwater Customs Root", rootKey, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        rootRequest.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        _root = rootRequest.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-30), DateTimeOffset.UtcNow.AddYears(5));
        var encryption = Issue(
            new CertificateRequest("CN=Brackwater Customs Desk", Encryption, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1),
            X509KeyUsageFlags.KeyEncipherment | X509KeyUsageFlags.DataEncipherment,
            DateTimeOffset.UtcNow.AddYears(1));
        var signing = Issue(
            new CertificateRequest("CN=Brackwater Customs Seal", Signing, HashAlgorithmName.SHA256),
            X509KeyUsageFlags.DigitalSignature,
            DateTimeOffset.UtcNow.AddYears(1));
        var ended = Issue(
            new CertificateRequest("CN=Brackwater Customs Desk", Encryption, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1),
            X509KeyUsageFlags.KeyEncipherment,
            DateTimeOffset.UtcNow.AddDays(-1));
        (Desk, Seal) = (encryption.ExportCertificatePem(), signing.ExportCertificatePem());
        if (folder is null)
            return;
        Directory.CreateDirectory(folder);
        File.WriteAllText(Path.Combine(folder, "desk.crt"), Desk);
        File.WriteAllText(Path.Combine(folder, "seal.crt"), Seal);
        File.WriteAllText(Path.Combine(folder, "desk-ended.crt"), ended.ExportCertificatePem());
        File.WriteAllText(Path.Combine(folder, "desk.pem"), Encryption.ExportSubjectPublicKeyInfoPem());
        File.WriteAllBytes(Path.Combine(folder, "desk.der"), Encryption.ExportSubjectPublicKeyInfo());
        using var other = RSA.Create(2048);
        File.WriteAllText(Path.Combine(folder, "other-environment.pem"), other.ExportSubjectPublicKeyInfoPem());
        File.WriteAllText(Path.Combine(folder, "partner.b64"), Convert.ToBase64String(Partner));
    }

    /// <summary>What others encrypt under.</summary>
    public RSA Encryption { get; } = RSA.Create(2048);

    /// <summary>What it signs with.</summary>
    public ECDsa Signing { get; } = ECDsa.Create(ECCurve.NamedCurves.nistP256);

    /// <summary>A key that is published nowhere.</summary>
    public ECDsa Other { get; } = ECDsa.Create(ECCurve.NamedCurves.nistP256);

    /// <summary>The key that a partner's HMAC is made with.</summary>
    public byte[] Partner { get; } = SHA256.HashData("a key that the partner was given"u8);

    /// <summary>The certificate that others encrypt under, as PEM.</summary>
    public string Desk { get; }

    /// <summary>The certificate of the signing key, as PEM.</summary>
    public string Seal { get; }

    /// <summary>The public keys as a JSON Web Key Set (RFC 7517).</summary>
    public JsonObject KeySet()
    {
        var (rsa, curve) = (Encryption.ExportParameters(false), Signing.ExportParameters(false));
        return new JsonObject
        {
            ["keys"] = new JsonArray(
                new JsonObject { ["kty"] = "RSA", ["use"] = "enc", ["kid"] = "desk-1", ["n"] = Base64UrlEncoder.Encode(rsa.Modulus), ["e"] = Base64UrlEncoder.Encode(rsa.Exponent) },
                new JsonObject { ["kty"] = "EC", ["use"] = "sig", ["kid"] = "seal-1", ["crv"] = "P-256", ["x"] = Base64UrlEncoder.Encode(curve.Q.X), ["y"] = Base64UrlEncoder.Encode(curve.Q.Y) }),
        };
    }

    public void Dispose()
    {
        _root.Dispose();
        Encryption.Dispose();
        Signing.Dispose();
        Other.Dispose();
    }

    private X509Certificate2 Issue(CertificateRequest request, X509KeyUsageFlags use, DateTimeOffset until)
    {
        request.CertificateExtensions.Add(new X509KeyUsageExtension(use, true));
        using var key = _root.GetRSAPrivateKey()!;
        return request.Create(
            _root.SubjectName,
            X509SignatureGenerator.CreateForRSA(key, RSASignaturePadding.Pkcs1),
            DateTimeOffset.UtcNow.AddDays(-2),
            until,
            RandomNumberGenerator.GetBytes(8));
    }
}
