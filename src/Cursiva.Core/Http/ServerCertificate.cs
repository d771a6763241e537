using System.Net.Security;
using System.Security.Authentication;
using System.Security.Cryptography.X509Certificates;

namespace Cursiva.Core.Http;

/// <summary>What is asked of a server's certificate beyond the usual, under the machine's authorities and under trust: alike.</summary>
internal static class ServerCertificate
{
    private const int ShortestRsa = 2048;

    /// <summary>
    /// Accepts a certificate that the platform found nothing wrong with, whose names are where RFC 9525 wants them, and whose keys are long
    /// enough.
    /// </summary>
    /// <exception cref="AuthenticationException">It is too weak, or names its host in the subject alone.</exception>
    public static bool Check(object sender, X509Certificate? certificate, X509Chain? chain, SslPolicyErrors errors)
    {
        if (errors != SslPolicyErrors.None || certificate is null)
            throw new AuthenticationException(Describe(errors, chain));
        using var leaf = new X509Certificate2(certificate);
        if (!leaf.Extensions.Any(extension => extension.Oid?.Value == "2.5.29.17"))
            throw new AuthenticationException("the server's certificate has no host in its subject alternative names");
        foreach (var element in chain?.ChainElements.AsEnumerable() ?? [])
        {
            using var rsa = element.Certificate.GetRSAPublicKey();
            if (rsa is { KeySize: < ShortestRsa })
                throw new AuthenticationException(
                    $"a certificate of the server has an RSA key of {rsa.KeySize} bits, and at least {ShortestRsa} are required ({element.Certificate.Subject})");
        }

        return true;
    }

    private static string Describe(SslPolicyErrors errors, X509Chain? chain)
    {
        if ((errors & SslPolicyErrors.RemoteCertificateNotAvailable) != 0)
            return "the server sent no certificate";
        var why = chain?.ChainStatus
            .Select(status => status.StatusInformation.TrimEnd('.', ' '))
            .Where(text => text.Length > 0)
            .Distinct()
            .ToList() ?? [];
        if ((errors & SslPolicyErrors.RemoteCertificateNameMismatch) != 0)
            why.Insert(0, "it is for another name");
        return $"the remote certificate is invalid: {string.Join("; ", why)}";
    }
}
