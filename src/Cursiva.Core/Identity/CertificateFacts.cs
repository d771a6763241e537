using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>What is to be known of a certificate.</summary>
/// <param name="Sha1">The SHA-1 thumbprint in hexadecimal digits, as administration pages show it; <c>x5t</c> is the same in
/// base64url.</param>
/// <param name="Sha256">The SHA-256 thumbprint in hexadecimal digits.</param>
public sealed record CertificateFacts(
    string Subject, string Kind, DateTimeOffset From, DateTimeOffset Until, string Sha1, string Sha256, bool HasPrivateKey)
{
    /// <summary>What a certificate says.</summary>
    public static CertificateFacts Of(X509Certificate2 certificate, bool hasPrivateKey) => new(
        certificate.Subject,
        KindOf(certificate),
        certificate.NotBefore.ToUniversalTime(),
        certificate.NotAfter.ToUniversalTime(),
        certificate.GetCertHashString(HashAlgorithmName.SHA1),
        certificate.GetCertHashString(HashAlgorithmName.SHA256),
        hasPrivateKey);

    /// <summary>Reads a PKCS #12, PEM or DER file.</summary>
    /// <exception cref="RefusedException">It cannot be read, or holds no certificate.</exception>
    public static CertificateFacts Read(string path, string? password)
    {
        byte[] bytes;
        try
        {
            bytes = File.ReadAllBytes(path);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new RefusedException(
                new Refusal(
                    Outcome.WrongCommandLine,
                    $"{path} cannot be read ({(File.Exists(path) ? "no permission" : "there is no such file")})")
                {
                    NextStep = "give the path of a PKCS #12, PEM or DER file",
                },
                error);
        }

        try
        {
            var isPem = bytes.AsSpan().IndexOf("-----BEGIN "u8) >= 0;
            if (isPem)
            {
                var text = Encoding.UTF8.GetString(bytes);
                using var fromPem = X509Certificate2.CreateFromPem(text);
                return Of(fromPem, text.Contains("PRIVATE KEY-----", StringComparison.Ordinal));
            }

            if (X509Certificate2.GetCertContentType(bytes) == X509ContentType.Cert)
            {
                using var bare = X509CertificateLoader.LoadCertificate(bytes);
                return Of(bare, hasPrivateKey: false);
            }

            using var fromPkcs12 = X509CertificateLoader.LoadPkcs12(bytes, password, X509KeyStorageFlags.EphemeralKeySet);
            return Of(fromPkcs12, fromPkcs12.HasPrivateKey);
        }
        catch (CryptographicException error)
        {
            throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"{path} cannot be read: {error.Message}")
            {
                Cause = password is null
                    ? "it is protected by a password, is damaged, or contains no certificate"
                    : "the password is wrong, or the file is damaged",
                NextStep = "say where its password is with --password SOURCE",
            }, error);
        }
    }

    private static string KindOf(X509Certificate2 certificate)
    {
        using var rsa = certificate.GetRSAPublicKey();
        if (rsa is not null)
            return $"RSA {rsa.KeySize}";
        using var curve = certificate.GetECDsaPublicKey();
        return curve is null ? certificate.PublicKey.Oid.FriendlyName ?? "unknown" : $"EC P-{curve.KeySize}";
    }
}
