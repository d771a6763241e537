using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Cursiva.Cli.Tests;

/// <summary>A proxy that takes CONNECT (RFC 9110 section 9.3.6) for any host, and leads all of them to one port of this machine.</summary>
internal sealed class TunnelProxy : IDisposable
{
    private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    private readonly int _port;

    public TunnelProxy(int port)
    {
        _port = port;
        _listener.Start();
        _ = AcceptAsync();
    }

    public string Address => $"http://127.0.0.1:{((IPEndPoint)_listener.LocalEndpoint).Port}";

    /// <summary>The hosts that were asked for.</summary>
    public ConcurrentDictionary<string, bool> Hosts { get; } = new();

    public void Dispose() => _listener.Dispose();

    private async Task AcceptAsync()
    {
        try
        {
            while (true)
                _ = TunnelAsync(await _listener.AcceptTcpClientAsync());
        }
        catch (Exception error) when (error is SocketException or ObjectDisposedException)
        {
            // Closing.
        }
    }

    private async Task TunnelAsync(TcpClient client)
    {
        using (client)
        {
            try
            {
                var stream = client.GetStream();
                var head = new StringBuilder();
                var one = new byte[1];
                while (!head.ToString().EndsWith("\r\n\r\n", StringComparison.Ordinal) && await stream.ReadAsync(one) == 1)
                    head.Append((char)one[0]);
                Hosts[head.ToString().Split(' ')[1]] = true;
                using var server = new TcpClient("127.0.0.1", _port);
                await stream.WriteAsync("HTTP/1.1 200 Connected\r\n\r\n"u8.ToArray());
                await Task.WhenAny(stream.CopyToAsync(server.GetStream()), server.GetStream().CopyToAsync(stream));
            }
            catch (Exception error) when (error is IOException or SocketException or IndexOutOfRangeException)
            {
                // One side is gone, and so is the tunnel.
            }
        }
    }
}
