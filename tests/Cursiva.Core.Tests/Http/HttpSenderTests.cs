using System.Net;
using System.Net.Sockets;
using System.Text;
using Cursiva.Core.Http;

namespace Cursiva.Core.Tests.Http;

/// <summary>What the sender leaves alone, against a server on a socket.</summary>
public sealed class HttpSenderTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public async Task No_cookie_is_kept_and_no_redirect_is_followed()
    {
        using var socket = new TcpListener(IPAddress.Loopback, 0);
        socket.Start();
        var address = new Uri($"http://127.0.0.1:{((IPEndPoint)socket.LocalEndpoint).Port}/first");
        var heads = new List<string>();
        var serving = ServeAsync(socket, heads);
        using var senders = new HttpSenders(TimeProvider.System, _folder.Path);
        foreach (var path in new[] { "/first", "/second" })
        {
            using var answer = await senders.For().SendAsync(new Request(HttpMethod.Get, new Uri(address, path), []), new Patience(TimeSpan.FromSeconds(20), 1024), TestContext.Current.CancellationToken);
            answer.Status.ShouldBe(302);
        }

        await serving;
        heads.Select(head => head.Split(' ')[1]).ShouldBe(["/first", "/second"]);
        heads.ShouldAllBe(head => !head.Contains("Cookie", StringComparison.OrdinalIgnoreCase));
    }

    // Two requests, each on a connection of its own; both are told to keep a cookie and to go elsewhere.
    private static async Task ServeAsync(TcpListener socket, List<string> heads)
    {
        for (var request = 0; request < 2; request++)
        {
            using var client = await socket.AcceptTcpClientAsync();
            var stream = client.GetStream();
            var buffer = new byte[4096];
            heads.Add(Encoding.ASCII.GetString(buffer, 0, await stream.ReadAsync(buffer)));
            await stream.WriteAsync("HTTP/1.1 302 Found\r\nLocation: /elsewhere\r\nSet-Cookie: kept=1; Path=/\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"u8.ToArray());
        }
    }
}
