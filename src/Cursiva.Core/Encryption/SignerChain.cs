using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace Cursiva.Core.Encryption;

/// <summary>
/// Signers whose certificates come with what they signed, and count because an authority that the job names issued them (RFC 5280 section
/// 6).
/// </summary>
internal static class SignerChain
{
    /// <summary>Whether a certificate may issue others.</summary>
    public static bool IsAuthority(X509Certificate2 certificate) =>
        certificate.Extensions.OfType<X509BasicConstraintsExtension>().FirstOrDefault()?.CertificateAuthority == true;

    /// <summary>The signer's key.</summary>
    /// <param name="chain">The certificates of the text, in base64 of their DER, the signer's first.</param>
    /// <param name="authorities">Keys with certificates that may issue others.</param>
    /// <param name="now">When it must be valid.</param>
    /// <exception cref="PayloadException">No authority vouches for it, or it is not for signatures.</exception>
    public static ExchangeKey Signer(IReadOnlyList<string> chain, IReadOnlyList<ExchangeKey> authorities, DateTimeOffset now)
    {
        List<X509Certificate2> read = [];
        try
        {
            read.AddRange(chain.Select(text => X509CertificateLoader.LoadCertificate(Base64.TryAny(text) ?? [])));
            Check(read, authorities, now);
            var signer = X509CertificateLoader.LoadCertificate(read[0].RawData);
            return new ExchangeKey { Certificate = signer, Rsa = signer.GetRSAPublicKey(), Curve = signer.GetECDsaPublicKey() };
        }
        catch (CryptographicException error)
        {
            throw new PayloadException("a certificate in its x5c cannot be read", error);
        }
        finally
        {
            read.ForEach(certificate => certificate.Dispose());
        }
    }

    private static void Check(List<X509Certificate2> read, IReadOnlyList<ExchangeKey> authorities, DateTimeOffset now)
    {
        using var built = new X509Chain
        {
            ChainPolicy =
            {
                TrustMode = X509ChainTrustMode.CustomRootTrust,
                RevocationMode = X509RevocationMode.NoCheck,
                VerificationTime = now.UtcDateTime,
                DisableCertificateDownloads = true,
                VerificationFlags = X509VerificationFlags.AllowUnknownCertificateAuthority,
            },
        };
        built.ChainPolicy.CustomTrustStore.AddRange(authorities.Select(key => key.Certificate!).ToArray());
        built.ChainPolicy.ExtraStore.AddRange(read.Skip(1).ToArray());
        var holds = built.Build(read[0]);
        var ends = built.ChainElements.Select(element => element.Certificate.RawData).Any(
            raw => authorities.Any(key => key.Certificate!.RawData.AsSpan().SequenceEqual(raw)));
        if (!holds || !ends)
            throw new PayloadException(
                $"its signer {read[0].Subject} was not issued by the authority in the job, or its certificate is not valid now{Why(built)}");
        if (read[0].Extensions.OfType<X509KeyUsageExtension>().FirstOrDefault()?.KeyUsages is { } uses
            && (uses & (X509KeyUsageFlags.DigitalSignature | X509KeyUsageFlags.NonRepudiation)) == 0)
            throw new PayloadException($"the certificate of its signer {read[0].Subject} is only for {uses}");
    }

    private static string Why(X509Chain chain) =>
        chain.ChainStatus
            .Select(status => status.Status)
            .Where(
                status => status is not (X509ChainStatusFlags.NoError or X509ChainStatusFlags.UntrustedRoot or X509ChainStatusFlags.PartialChain))
            .Distinct()
            .ToList() is { Count: > 0 } found
        ? $" ({string.Join(", ", found)})"
        : "";
}
