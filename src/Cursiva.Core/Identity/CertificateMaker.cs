using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>Makes key pairs with self-signed certificates (RFC 5280), for assertions and TLS.</summary>
public sealed class CertificateMaker(IDisk disk)
{
    /// <summary>The kinds of keys that are made.</summary>
    public static IReadOnlyList<string> Kinds { get; } = ["rsa2048", "rsa3072", "rsa4096", "p256", "p384"];

    /// <summary>Makes a key pair and writes PREFIX.p12, PREFIX.pem (both with the private key, mode 0600) and PREFIX.crt.</summary>
    /// <param name="prefix">The path of the files without their suffixes.</param>
    /// <param name="password">Of the PKCS #12 file and the private key in the PEM; null leaves them unprotected.</param>
    /// <param name="overwrite">Whether files that are there are replaced.</param>
    /// <exception cref="RefusedException">A file is there already, or the folder cannot be written.</exception>
    public CertificateFacts Make(
        string prefix, string kind, string subject, DateTimeOffset from, DateTimeOffset until, string? password, bool overwrite)
    {
        string[] paths = [prefix + ".p12", prefix + ".pem", prefix + ".crt"];
        if (!overwrite && paths.FirstOrDefault(disk.Exists) is { } there)
        {
            throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"{there} already exists")
            {
                Cause = "replacing the key loses it, and with it every sign-in that uses it",
                NextStep = "choose another name with --out, or replace it with --force",
            });
        }

        using var certificate = Create(kind, subject, from, until);
        var encryption = new PbeParameters(PbeEncryptionAlgorithm.Aes256Cbc, HashAlgorithmName.SHA256, 200_000);
        try
        {
            WholeFile.Write(
                disk,
                paths[0],
                password is null ? certificate.Export(X509ContentType.Pfx) : certificate.ExportPkcs12(encryption, password));
            WholeFile.Write(
                disk,
                paths[1],
                Encoding.ASCII.GetBytes(PrivatePem(certificate, password, encryption) + "\n" + certificate.ExportCertificatePem() + "\n"));
            WholeFile.Write(disk, paths[2], certificate.Export(X509ContentType.Cert), shared: true);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new RefusedException(
                new Refusal(Outcome.InternalError, $"the files cannot be written: {error.Message}")
                {
                    NextStep = "choose a path in an existing, writable folder with --out",
                },
                error);
        }

        return CertificateFacts.Of(certificate, hasPrivateKey: true);
    }

    private static X509Certificate2 Create(string kind, string subject, DateTimeOffset from, DateTimeOffset until)
    {
        var name = SubjectOf(subject);
        CertificateRequest request;
        using AsymmetricAlgorithm key = kind switch
        {
            "p256" => ECDsa.Create(ECCurve.NamedCurves.nistP256),
            "p384" => ECDsa.Create(ECCurve.NamedCurves.nistP384),
            _ => RSA.Create(int.Parse(kind[3..], System.Globalization.CultureInfo.InvariantCulture)),
        };
        request = key is RSA rsa
            ? new CertificateRequest(name, rsa, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1)
            : new CertificateRequest(name, (ECDsa)key, kind == "p384" ? HashAlgorithmName.SHA384 : HashAlgorithmName.SHA256);
        request.CertificateExtensions.Add(
            new X509BasicConstraintsExtension(certificateAuthority: false, hasPathLengthConstraint: false, 0, critical: true));
        request.CertificateExtensions.Add(new X509KeyUsageExtension(X509KeyUsageFlags.DigitalSignature, critical: true));
        request.CertificateExtensions.Add(new X509EnhancedKeyUsageExtension([new Oid("1.3.6.1.5.5.7.3.2")], critical: false));
        request.CertificateExtensions.Add(new X509SubjectKeyIdentifierExtension(request.PublicKey, critical: false));
        return request.CreateSelfSigned(from, until);
    }

    private static X500DistinguishedName SubjectOf(string subject)
    {
        try
        {
            return new X500DistinguishedName(subject.Contains('=') ? subject : $"CN={subject}");
        }
        catch (CryptographicException error)
        {
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"'{subject}' is not a subject name")
                {
                    NextStep = "write --subject \"Brackwater export\", or --subject \"CN=export, O=Brackwater\"",
                },
                error);
        }
    }

    private static string PrivatePem(X509Certificate2 certificate, string? password, PbeParameters encryption)
    {
        using AsymmetricAlgorithm key = certificate.GetRSAPrivateKey() ?? (AsymmetricAlgorithm)certificate.GetECDsaPrivateKey()!;
        return password is null ? key.ExportPkcs8PrivateKeyPem() : key.ExportEncryptedPkcs8PrivateKeyPem(password, encryption);
    }
}
