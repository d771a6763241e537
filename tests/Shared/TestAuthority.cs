using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace Cursiva.Tests;

/// <summary>A certificate authority and a certificate of this machine's loopback address, for servers of tests.</summary>
internal static class TestAuthority
{
    /// <summary>Writes the authority's certificate, and the server's certificate and key, as PEM files of these names.</summary>
    public static void Write(string folder, string authority, string certificate, string key)
    {
        using var root = RSA.Create(2048);
        var own = new CertificateRequest("CN=Cursiva test authority", root, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        own.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        own.CertificateExtensions.Add(new X509KeyUsageExtension(X509KeyUsageFlags.KeyCertSign, true));
        var (from, until) = (DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(2));
        using var issuer = own.CreateSelfSigned(from, until);
        using var pair = RSA.Create(2048);
        var asked = new CertificateRequest("CN=localhost", pair, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        var names = new SubjectAlternativeNameBuilder();
        names.AddDnsName("localhost");
        names.AddIpAddress(IPAddress.Loopback);
        asked.CertificateExtensions.Add(names.Build());
        using var server = asked.Create(issuer, from, until, RandomNumberGenerator.GetBytes(12));
        File.WriteAllText(Path.Combine(folder, authority), issuer.ExportCertificatePem());
        File.WriteAllText(Path.Combine(folder, certificate), server.ExportCertificatePem());
        File.WriteAllText(Path.Combine(folder, key), pair.ExportPkcs8PrivateKeyPem());
        File.SetUnixFileMode(Path.Combine(folder, key), UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }
}
