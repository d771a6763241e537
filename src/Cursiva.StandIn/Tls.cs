using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Microsoft.AspNetCore.Server.Kestrel.Core;
using Microsoft.AspNetCore.Server.Kestrel.Https;

namespace Cursiva.StandIn;

/// <summary>Https on the loopback address, by an authority that nobody trusts unless told to.</summary>
internal static class Tls
{
    /// <summary>Listens, taking any client certificate, and writes the authority's certificate to a file.</summary>
    public static void Listen(KestrelServerOptions kestrel, int port, string authorityFile)
    {
        using var authorityKey = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var authorityRequest = new CertificateRequest("CN=Brackwater test authority", authorityKey, HashAlgorithmName.SHA256);
        authorityRequest.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        var (from, until) = (DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(30));
        using var authority = authorityRequest.CreateSelfSigned(from, until);
        File.WriteAllText(authorityFile, authority.ExportCertificatePem());

        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var request = new CertificateRequest("CN=localhost", key, HashAlgorithmName.SHA256);
        var names = new SubjectAlternativeNameBuilder();
        names.AddIpAddress(IPAddress.Loopback);
        names.AddDnsName("localhost");
        names.AddDnsName("*.brackwater.example");
        request.CertificateExtensions.Add(names.Build());
        using var issued = request.Create(authority, from, until, RandomNumberGenerator.GetBytes(12));
        var certificate = X509CertificateLoader.LoadPkcs12(issued.CopyWithPrivateKey(key).Export(X509ContentType.Pfx), null);
        kestrel.Listen(IPAddress.Loopback, port, listen => listen.UseHttps(https =>
        {
            https.ServerCertificate = certificate;
            https.ClientCertificateMode = ClientCertificateMode.AllowCertificate;
            https.ClientCertificateValidation = (_, _, _) => true;
        }));
    }
}
