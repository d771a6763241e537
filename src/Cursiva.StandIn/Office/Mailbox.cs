using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Cursiva.StandIn.Office;

/// <summary>A mail server (RFC 5321) that takes whatever comes and puts it into a mailbox file (RFC 4155).</summary>
public sealed class Mailbox(string path) : IDisposable
{
    private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    private readonly Lock _gate = new();

    /// <summary>Where it listens.</summary>
    public string Address => $"127.0.0.1:{((IPEndPoint)_listener.LocalEndpoint).Port.ToString(CultureInfo.InvariantCulture)}";

    public void Start(CancellationToken cancel)
    {
        _listener.Start();
        _ = ListenAsync(cancel);
    }

    public void Dispose() => _listener.Dispose();

    private async Task ListenAsync(CancellationToken cancel)
    {
        while (!cancel.IsCancellationRequested)
        {
            var client = await _listener.AcceptTcpClientAsync(cancel);
            _ = Task.Run(() => ServeAsync(client, cancel), cancel);
        }
    }

    private async Task ServeAsync(TcpClient client, CancellationToken cancel)
    {
        using (client)
        {
            var stream = client.GetStream();
            using var reader = new StreamReader(stream, Encoding.Latin1);
            await using var writer = new StreamWriter(stream, Encoding.ASCII) { NewLine = "\r\n", AutoFlush = true };
            await writer.WriteLineAsync("220 mail.brackwater.example at your service");
            var sender = "";
            while (await reader.ReadLineAsync(cancel) is { } line)
            {
                switch (line.Split(' ', ':')[0].ToUpperInvariant())
                {
                    case "EHLO":
                        await writer.WriteLineAsync("250-mail.brackwater.example\r\n250-8BITMIME\r\n250 SIZE 20000000");
                        break;
                    case "MAIL":
                        sender = line.Split('<', '>') is [_, var address, ..] ? address : "";
                        await writer.WriteLineAsync("250 sender noted");
                        break;
                    case "DATA":
                        await writer.WriteLineAsync("354 go ahead");
                        await TakeAsync(reader, sender, cancel);
                        await writer.WriteLineAsync("250 taken");
                        break;
                    case "QUIT":
                        await writer.WriteLineAsync("221 goodbye");
                        return;
                    default:
                        await writer.WriteLineAsync("250 noted");
                        break;
                }
            }
        }
    }

    private async Task TakeAsync(StreamReader reader, string sender, CancellationToken cancel)
    {
        var mail = new StringBuilder();
        while (await reader.ReadLineAsync(cancel) is { } line && line != ".")
        {
            // RFC 5321 section 4.5.2; a line that looks like the beginning of a mail is marked.
            var text = line.StartsWith("..", StringComparison.Ordinal) ? line[1..] : line;
            mail.Append(text.StartsWith("From ", StringComparison.Ordinal) ? ">" : "").Append(text).Append('\n');
        }

        lock (_gate)
            File.AppendAllText(
                path,
                $"From {sender} {DateTime.UtcNow.ToString("ddd MMM dd HH:mm:ss yyyy", CultureInfo.InvariantCulture)}\n{mail}\n",
                Encoding.Latin1);
    }
}
