using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.RegularExpressions;
using System.Threading.Channels;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>
/// Listens on the loopback address for the answer that a browser brings (RFC 8252 section 7.3): on the port of the redirect URI, or on
/// any that is free where it names none. <c>localhost</c> is listened for on 127.0.0.1 and on [::1], since browsers take either.
/// </summary>
internal sealed partial class LoopbackListener : IDisposable
{
    private const string Page = """
        <!doctype html><html lang="en"><meta charset="utf-8"><title>Cursiva</title>
        <body style="font: 17px/1.5 system-ui, sans-serif; margin: 15vh auto; max-width: 32em; padding: 0 1em">
        <h1 style="font-size: 1.3em">The answer has arrived.</h1><p>This window can be closed. The terminal tells how the sign-in went.</p></body></html>
        """;

    private const string OtherPage = """
        <!doctype html><html lang="en"><meta charset="utf-8"><title>Cursiva</title>
        <body style="font: 17px/1.5 system-ui, sans-serif; margin: 15vh auto; max-width: 32em; padding: 0 1em">
        <h1 style="font-size: 1.3em">This answer belongs to another sign-in.</h1><p>Use the address that the terminal shows; it still waits for its answer.</p></body></html>
        """;

    private const int LargestHead = 32 * 1024;
    private const int Tries = 20;
    private static readonly TimeSpan s_headTimeout = TimeSpan.FromSeconds(20);

    private readonly List<TcpListener> _sockets;

    private LoopbackListener(List<TcpListener> sockets, Uri address)
    {
        _sockets = sockets;
        Address = address;
    }

    /// <summary>The redirect URI, with its port.</summary>
    public Uri Address { get; }

    /// <summary>Starts to listen.</summary>
    /// <param name="asked">The address that is registered, with or without a port; null for 127.0.0.1 and a free port.</param>
    /// <exception cref="RefusedException">Another program listens there already, or the port is not for everybody.</exception>
    public static LoopbackListener Start(Uri? asked)
    {
        var address = asked ?? new Uri("http://127.0.0.1/");
        for (var attempt = 1; ; attempt++)
        {
            var sockets = new List<TcpListener>();
            try
            {
                var port = asked is not null && HasPort(asked) ? asked.Port : 0;
                foreach (var ip in PlacesOf(address))
                {
                    var socket = new TcpListener(ip, port);
                    socket.Start();
                    sockets.Add(socket);
                    port = ((IPEndPoint)socket.LocalEndpoint).Port;
                }

                return new LoopbackListener(sockets, HasPort(address) ? address : WithPort(address, port));
            }
            catch (SocketException error)
            {
                sockets.ForEach(socket => socket.Dispose());

                // The port that is free on one address may be taken on the other.
                if ((asked is null || !HasPort(asked)) && error.SocketErrorCode == SocketError.AddressAlreadyInUse && attempt < Tries)
                    continue;
                throw Refuse(address, error);
            }
        }
    }

    /// <summary>
    /// A redirect URI without a listener, for an answer that will be pasted: the requested one, with a free port if it has none.
    /// </summary>
    public static Uri FreeAddress(Uri? asked)
    {
        if (asked is not null && (HasPort(asked) || !asked.IsLoopback))
            return asked;
        using var listener = Start(asked);
        return listener.Address;
    }

    /// <summary>
    /// Waits for the request that is the answer, and gives its address. Anybody on this machine can knock: others are told so.
    /// </summary>
    /// <param name="state">The state that the answer has (RFC 6749 section 4.1.2).</param>
    public async Task<string> WaitAsync(string state, CancellationToken cancel)
    {
        // Browsers open connections ahead of what they ask, so that no connection may keep another one waiting.
        using var end = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var answers = Channel.CreateUnbounded<string>();
        var accepting = _sockets.ConvertAll(socket => AcceptAsync(socket, state, answers.Writer, end.Token));
        try
        {
            return await answers.Reader.ReadAsync(cancel);
        }
        finally
        {
            await end.CancelAsync();
            await Task.WhenAll(accepting);
        }
    }

    public void Dispose() => _sockets.ForEach(socket => socket.Dispose());

    private async Task AcceptAsync(TcpListener socket, string state, ChannelWriter<string> answers, CancellationToken cancel)
    {
        var open = new List<Task>();
        try
        {
            while (true)
            {
                var client = await socket.AcceptTcpClientAsync(cancel);
                open.RemoveAll(task => task.IsCompleted);
                open.Add(AnswerAsync(client, state, answers, cancel));
            }
        }
        catch (Exception error) when (error is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            await Task.WhenAll(open);
        }
    }

    private async Task AnswerAsync(TcpClient client, string state, ChannelWriter<string> answers, CancellationToken cancel)
    {
        using var accepted = client;
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(s_headTimeout);
        string? found = null;
        try
        {
            var stream = client.GetStream();
            var target = TargetOf(await HeadAsync(stream, limit.Token));
            var (status, page, answer) = Judge(target, state);
            found = answer;
            var body = Encoding.UTF8.GetBytes(page);
            await stream.WriteAsync(
                Encoding.ASCII.GetBytes(
                    $"HTTP/1.1 {status}\r\nContent-Type: text/html; charset=utf-8\r\nContent-Length: {body.Length}\r\nCache-Control: no-store\r\nReferrer-Policy: no-referrer\r\nConnection: close\r\n\r\n"),
                limit.Token);
            await stream.WriteAsync(body, limit.Token);
        }
        catch (Exception error) when (error is IOException or SocketException or OperationCanceledException)
        {
            // Whoever asked did not wait for what we say; an answer is an answer all the same.
        }

        if (found is not null)
            answers.TryWrite(found);
    }

    private (string Status, string Page, string? Answer) Judge(string? target, string state)
    {
        if (target is null || !Uri.TryCreate(Address.GetLeftPart(UriPartial.Authority) + target, UriKind.Absolute, out var url))
            return ("400 Bad Request", "", null);
        var looksLikeOne = url.AbsolutePath == Address.AbsolutePath && AnswerParts().IsMatch(url.Query);
        if (!looksLikeOne)
            return ("404 Not Found", "", null);
        return PersonAnswer.StateOf(url.AbsoluteUri) == state ? ("200 OK", Page, url.AbsoluteUri) : ("400 Bad Request", OtherPage, null);
    }

    // The head of a request (RFC 9112 section 2.1), as far as it has come within the bound.
    private static async Task<string> HeadAsync(NetworkStream stream, CancellationToken cancel)
    {
        var buffer = new byte[LargestHead];
        var length = 0;
        while (length < buffer.Length && buffer.AsSpan(0, length).IndexOf("\r\n\r\n"u8) < 0)
        {
            var read = await stream.ReadAsync(buffer.AsMemory(length), cancel);
            if (read == 0)
                break;
            length += read;
        }

        return Encoding.Latin1.GetString(buffer, 0, length);
    }

    private static string? TargetOf(string head) => RequestLine().Match(head) is { Success: true } line ? line.Groups[1].Value : null;

    private static IEnumerable<IPAddress> PlacesOf(Uri address) => address.HostNameType switch
    {
        UriHostNameType.IPv4 or UriHostNameType.IPv6 => [IPAddress.Parse(address.IdnHost)],
        _ when Socket.OSSupportsIPv6 => [IPAddress.Loopback, IPAddress.IPv6Loopback],
        _ => [IPAddress.Loopback],
    };

    // Uri fills in port 80 where none is written.
    private static bool HasPort(Uri address) => WrittenPort().IsMatch(address.OriginalString);

    // Everything else stays as it is registered, a missing slash included.
    private static Uri WithPort(Uri address, int port) =>
        new(Host().Replace(address.OriginalString, string.Create(CultureInfo.InvariantCulture, $"$0:{port}"), 1));

    /// <summary>Why an address cannot be listened at, and what to do.</summary>
    public static RefusedException Refuse(Uri address, SocketException error)
    {
        var (cause, next) = error.SocketErrorCode switch
        {
            SocketError.AccessDenied => (
                $"port {address.Port} is privileged: only root may listen on ports below 1024",
                "register a redirect URI with a port from 1024 up, or without a port if the server allows that (RFC 8252), or use --paste"),
            SocketError.AddressAlreadyInUse => (
                "another program, or another sign-in, uses the port",
                "end it and try again, remove the port from redirect-uri: if the server allows that (RFC 8252), or use --paste"),
            _ => ("this machine has no such address", "set the host of redirect-uri: to 127.0.0.1, or use --paste"),
        };
        return new(
            new Refusal(
                Outcome.SignInRefused,
                $"cannot listen for the answer at {address.OriginalString}: {error.Message}")
            { Cause = cause, NextStep = next },
            error);
    }

    [GeneratedRegex(@"^GET (/\S*) HTTP/1\.[01]\r\n")]
    private static partial Regex RequestLine();

    [GeneratedRegex(@"^[a-z]+://(\[[^\]]*\]|[^/?#:]*):\d", RegexOptions.IgnoreCase)]
    private static partial Regex WrittenPort();

    [GeneratedRegex(@"^[a-z]+://(\[[^\]]*\]|[^/?#:]*)", RegexOptions.IgnoreCase)]
    private static partial Regex Host();

    [GeneratedRegex(@"[?&](code|error)=")]
    private static partial Regex AnswerParts();
}
