using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>Reads private keys: PKCS #12 (RFC 7292) and PEM (RFC 7468), encrypted or not.</summary>
internal static class KeyFile
{
    /// <param name="certificatePath">A file with the certificate, or null when it comes with the key.</param>
    /// <param name="from">Where the key is, for messages.</param>
    /// <exception cref="RefusedException">It is not a private key, its password is wrong, or the certificate belongs to another
    /// one.</exception>
    public static SigningKey Read(byte[] bytes, string? password, string? certificatePath, string from)
    {
        try
        {
            return IsPem(bytes)
                ? FromPem(Encoding.UTF8.GetString(bytes), password, certificatePath, from)
                : FromPkcs12(bytes, password, from);
        }
        catch (CryptographicException error)
        {
            var refusal = new Refusal(Outcome.SignInRefused, $"the key of {from} cannot be read: {error.Message}");
            throw new RefusedException(password is null
                ? refusal with
                {
                    Cause = "it is protected by a password, or damaged",
                    NextStep = "say where its password is: private-key: { password: kept:NAME }",
                }
                : refusal with
                {
                    Cause = "the password is wrong, or the file is damaged",
                    NextStep = "store the password again, and compare it with the file's",
                }, error);
        }
    }

    private static bool IsPem(byte[] bytes) => bytes.AsSpan().IndexOf("-----BEGIN "u8) >= 0;

    private static SigningKey FromPkcs12(byte[] bytes, string? password, string from)
    {
        if (X509Certificate2.GetCertContentType(bytes) == X509ContentType.Cert)
            throw PublicHalf(from);
        var certificate = X509CertificateLoader.LoadPkcs12(bytes, password, X509KeyStorageFlags.EphemeralKeySet);
        var key = certificate.GetRSAPrivateKey() ?? (AsymmetricAlgorithm?)certificate.GetECDsaPrivateKey();
        return key is null ? throw PublicHalf(from) : new SigningKey(key, certificate);
    }

    private static SigningKey FromPem(string text, string? password, string? certificatePath, string from)
    {
        var key = PrivateKey(text, password, from);
        var certificate = certificatePath is not null
            ? LoadCertificate(certificatePath)
            : HasCertificate(text) ? X509Certificate2.CreateFromPem(
            text) : null;
        if (certificate is null)
            return new SigningKey(key, null);
        try
        {
            return new SigningKey(key, key is RSA rsa ? certificate.CopyWithPrivateKey(rsa) : certificate.CopyWithPrivateKey((ECDsa)key));
        }
        catch (ArgumentException error)
        {
            throw new RefusedException(new Refusal(
                Outcome.SignInRefused, $"the certificate {certificatePath ?? from} belongs to another key than {from}")
            {
                NextStep =
                    $"name the certificate that was made with this key; cursiva cert show {certificatePath ?? from} shows the thumbprints",
            }, error);
        }
    }

    private static AsymmetricAlgorithm PrivateKey(string text, string? password, string from)
    {
        foreach (var label in Labels(text))
        {
            switch (label)
            {
                case "RSA PRIVATE KEY" or "EC PRIVATE KEY" or "PRIVATE KEY" or "ENCRYPTED PRIVATE KEY":
                    return Import(text, label, password, from);
                default:
                    break;
            }
        }

        throw PublicHalf(from);
    }

    private static AsymmetricAlgorithm Import(string text, string label, string? password, string from)
    {
        if (label == "ENCRYPTED PRIVATE KEY" && password is null)
            throw new CryptographicException("the key is encrypted, and there is no password");
        foreach (var make in label == "EC PRIVATE KEY" ? new Func<AsymmetricAlgorithm>[] { ECDsa.Create } : [RSA.Create, ECDsa.Create])
        {
            var key = make();
            try
            {
                if (label == "ENCRYPTED PRIVATE KEY")
                    key.ImportFromEncryptedPem(text, password);
                else
                    key.ImportFromPem(text);
                return key;
            }
            catch (Exception error) when (error is CryptographicException or ArgumentException && key is RSA && label != "RSA PRIVATE KEY")
            {
                // A PKCS #8 key says only inside what it is; the other kind is tried next.
                key.Dispose();
            }
            catch (ArgumentException error)
            {
                throw new RefusedException(
                    new Refusal(Outcome.SignInRefused, $"the key of {from} is of a kind that cannot sign here")
                    {
                        NextStep = "use an RSA key, or an elliptic curve key on P-256 or P-384",
                    },
                    error);
            }
        }

        throw new CryptographicException("neither an RSA nor an elliptic curve key");
    }

    private static X509Certificate2 LoadCertificate(string path)
    {
        try
        {
            return X509CertificateLoader.LoadCertificateFromFile(path);
        }
        catch (Exception error) when (error is CryptographicException or IOException or UnauthorizedAccessException)
        {
            throw new RefusedException(new Refusal(
                Outcome.SignInRefused,
                $"the certificate {path} cannot be read ({(System.IO.File.Exists(path) ? "it is neither PEM nor DER" : "there is no such file")})")
            {
                NextStep = "name the file with the certificate, relative to the job file's folder",
            }, error);
        }
    }

    private static bool HasCertificate(string text) => Labels(text).Contains("CERTIFICATE");

    private static IEnumerable<string> Labels(string text)
    {
        for (var at = 0; PemEncoding.TryFind(text.AsSpan(at), out var fields); at += fields.Location.End.Value)
            yield return text.AsSpan(at)[fields.Label].ToString();
    }

    private static RefusedException PublicHalf(string from) =>
        new(new Refusal(Outcome.SignInRefused, $"{from} contains only the public half, but the private key is needed")
        {
            Cause = "the job names the file for the administrator instead of the private one",
            NextStep = "name the PKCS #12 file, or the PEM that has BEGIN PRIVATE KEY in it",
        });
}
