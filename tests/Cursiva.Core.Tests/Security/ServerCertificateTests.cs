using System.Net;
using System.Net.Security;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Cursiva.Core.Http;

namespace Cursiva.Core.Tests.Security;

/// <summary>A server's certificate is held to the same rules under trust: as everywhere.</summary>
public sealed class ServerCertificateTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData(2048, true, null)]
    [InlineData(1024, true, "RSA key of 1024 bits")]
    [InlineData(2048, false, "has no host in its subject alternative names")]
    public async Task A_weak_key_and_a_name_in_the_subject_alone_are_refused(int bits, bool hasNames, string? why)
    {
        using var authorityKey = RSA.Create(bits);
        var authorityRequest = new CertificateRequest("CN=An authority", authorityKey, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        authorityRequest.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        using var authority = authorityRequest.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(2));
        _folder.Write("ca.pem", authority.ExportCertificatePem());

        using var key = RSA.Create(2048);
        var request = new CertificateRequest("CN=127.0.0.1", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        var names = new SubjectAlternativeNameBuilder();
        names.AddIpAddress(IPAddress.Loopback);
        if (hasNames)
            request.CertificateExtensions.Add(names.Build());
        using var made = request.Create(authority, DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(1), RandomNumberGenerator.GetBytes(12));
        using var certificate = X509CertificateLoader.LoadPkcs12(made.CopyWithPrivateKey(key).Export(X509ContentType.Pfx), null);

        using var socket = new TcpListener(IPAddress.Loopback, 0);
        socket.Start();
        var serving = ServeAsync(socket, certificate);
        using var senders = new HttpSenders(TimeProvider.System, _folder.Path);
        var address = new Uri($"https://127.0.0.1:{((IPEndPoint)socket.LocalEndpoint).Port}/");
        var sending = senders.For("ca.pem").SendAsync(new Request(HttpMethod.Get, address, []), new Patience(TimeSpan.FromSeconds(20), 1024), TestContext.Current.CancellationToken);
        if (why is null)
            using (var answer = await sending)
                answer.Status.ShouldBe(204);
        else
            (await Should.ThrowAsync<TransportException>(() => sending)).Message.ShouldMatch(hasNames ? why : $"{why}|another name");
        await serving;
    }

    private static async Task ServeAsync(TcpListener socket, X509Certificate2 certificate)
    {
        try
        {
            using var client = await socket.AcceptTcpClientAsync();
            await using var tls = new SslStream(client.GetStream());
            await tls.AuthenticateAsServerAsync(certificate);
            var buffer = new byte[4096];
            _ = await tls.ReadAsync(buffer);
            await tls.WriteAsync("HTTP/1.1 204 No Content\r\nConnection: close\r\n\r\n"u8.ToArray());
        }
        catch (Exception error) when (error is IOException or System.Security.Authentication.AuthenticationException)
        {
            // The client has hung up, as it should.
        }
    }
}
