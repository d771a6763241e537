using System.Net.Security;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>The certificate authorities that <c>trust:</c> names, in place of the machine's.</summary>
internal static class TrustedAuthorities
{
    /// <summary>The chain policy that trusts these authorities alone.</summary>
    /// <param name="path">A PEM file with their certificates.</param>
    /// <exception cref="RefusedException">The file cannot be read or holds no certificate.</exception>
    public static X509ChainPolicy Policy(string path)
    {
        var policy = new X509ChainPolicy { TrustMode = X509ChainTrustMode.CustomRootTrust, RevocationMode = X509RevocationMode.NoCheck };
        policy.CustomTrustStore.AddRange(Load(path));
        return policy;
    }

    /// <summary>Checks a server's certificate, for libraries that take no policy.</summary>
    /// <param name="path">The file of <c>trust:</c>; null for the machine's authorities.</param>
    public static RemoteCertificateValidationCallback Check(string? path)
    {
        if (path is null)
            return ServerCertificate.Check;
        var policy = Policy(path);
        return (sender, certificate, _, errors) =>
        {
            using var chain = new X509Chain { ChainPolicy = policy };
            using var leaf = certificate is null ? null : new X509Certificate2(certificate);
            errors &= ~SslPolicyErrors.RemoteCertificateChainErrors;
            if (leaf is not null && !chain.Build(leaf))
                errors |= SslPolicyErrors.RemoteCertificateChainErrors;
            return ServerCertificate.Check(sender, certificate, chain, errors);
        };
    }

    private static X509Certificate2Collection Load(string path)
    {
        var authorities = new X509Certificate2Collection();
        try
        {
            authorities.ImportFromPemFile(path);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException or CryptographicException)
        {
            throw Wrong(path, File.Exists(path) ? "it cannot be read as PEM" : "there is no such file");
        }

        return authorities.Count > 0 ? authorities : throw Wrong(path, "it contains no certificate");
    }

    private static RefusedException Wrong(string path, string why) =>
        new(new Refusal(Outcome.JobFileWrong, $"the file of trust: cannot be used: {path}: {why}")
        {
            NextStep = "name a PEM file with the authorities' certificates, relative to the job file's folder",
        });
}
