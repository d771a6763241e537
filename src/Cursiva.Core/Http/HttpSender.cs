using System.Buffers;
using System.Net.Sockets;
using System.Security.Authentication;
using System.Text.Json;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>Sends one request and reads the whole answer. Follows no redirect, keeps no cookie, retries nothing.</summary>
public sealed class HttpSender : IDisposable
{
    private readonly HttpClient _client;
    private readonly TimeProvider _clock;
    private readonly string _userAgent;

    /// <param name="handler">What carries the requests; tests give their own.</param>
    public HttpSender(TimeProvider clock, HttpMessageHandler? handler = null)
    {
        _clock = clock;
        _userAgent = "Cursiva/" + typeof(HttpSender).Assembly.GetName().Version?.ToString(2);
        _client = new HttpClient(handler ?? NewHandler()) { Timeout = Timeout.InfiniteTimeSpan };
    }

    /// <summary>What carries requests: it follows no redirect and keeps no cookie.</summary>
    public static SocketsHttpHandler NewHandler() => new()
    {
        AllowAutoRedirect = false,
        UseCookies = false,
        ConnectTimeout = TimeSpan.FromSeconds(20),
        PooledConnectionIdleTimeout = TimeSpan.FromSeconds(60),
    };

    /// <summary>Sends the request.</summary>
    /// <param name="timeout">Longest wait for the whole answer.</param>
    /// <param name="largest">Largest body that is accepted, in bytes.</param>
    /// <exception cref="TransportException">There was no whole answer.</exception>
    /// <exception cref="OperationCanceledException"><paramref name="cancel"/> was asked for.</exception>
    public async Task<Answer> SendAsync(Request request, TimeSpan timeout, long largest, CancellationToken cancel)
    {
        using var message = new HttpRequestMessage(request.Method, request.Uri) { Version = new Version(1, 1), VersionPolicy = HttpVersionPolicy.RequestVersionOrLower };
        message.Headers.TryAddWithoutValidation("User-Agent", _userAgent);
        foreach (var (name, value) in request.Headers)
            message.Headers.TryAddWithoutValidation(name, value);
        if (request.Form is { } form)
            message.Content = request.FormAsJson ? Json(form) : new FormUrlEncodedContent(form);

        using var limit = new CancellationTokenSource(timeout, _clock);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancel, limit.Token);
        var start = _clock.GetTimestamp();
        try
        {
            using var response = await _client.SendAsync(message, HttpCompletionOption.ResponseHeadersRead, either.Token);
            return await ReadAsync(response, start, largest, either.Token);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            throw new TransportException(Trouble.Silent, $"no whole answer within {timeout.TotalSeconds:0.###} s");
        }
        catch (HttpRequestException error)
        {
            throw Explain(error);
        }
        catch (IOException error)
        {
            throw new TransportException(Trouble.CutOff, "the connection broke before the answer was whole", error);
        }
    }

    public void Dispose() => _client.Dispose();

    private async Task<Answer> ReadAsync(HttpResponseMessage response, long start, long largest, CancellationToken cancel)
    {
        var declared = response.Content.Headers.ContentLength;
        var body = new PageBuffer((int)Math.Min(declared ?? 32 * 1024, largest) + 1);
        try
        {
            using var stream = await response.Content.ReadAsStreamAsync(cancel);
            await body.FillAsync(stream, largest, cancel);
            return new Answer((int)response.StatusCode, response.Headers, response.Content.Headers.ContentType?.MediaType?.ToLowerInvariant() ?? "", body, _clock.GetElapsedTime(start));
        }
        catch
        {
            body.Dispose();
            throw;
        }
    }

    private static ByteArrayContent Json(IReadOnlyList<KeyValuePair<string, string>> form)
    {
        var bytes = new ArrayBufferWriter<byte>();
        using (var writer = new Utf8JsonWriter(bytes))
        {
            writer.WriteStartObject();
            foreach (var (name, value) in form)
                writer.WriteString(name, value);
            writer.WriteEndObject();
        }

        var content = new ByteArrayContent(bytes.WrittenSpan.ToArray());
        content.Headers.ContentType = new("application/json");
        return content;
    }

    private static TransportException Explain(HttpRequestException error)
    {
        if (error.InnerException is AuthenticationException or IOException && error.HttpRequestError == HttpRequestError.SecureConnectionError)
            return new TransportException(Trouble.Tls, $"TLS failed: {Innermost(error).Message}", error);
        if (error.InnerException is SocketException socket)
        {
            return new TransportException(Trouble.Unreachable, socket.SocketErrorCode switch
            {
                SocketError.ConnectionRefused => "nobody listens at this port (connection refused)",
                SocketError.HostNotFound or SocketError.TryAgain or SocketError.NoData => "the host name is not known",
                _ => socket.Message,
            }, error);
        }

        return error.HttpRequestError is HttpRequestError.ResponseEnded or HttpRequestError.InvalidResponse or HttpRequestError.Unknown
            ? new TransportException(Trouble.CutOff, "the connection broke before the answer was whole", error)
            : new TransportException(Trouble.Unreachable, error.Message, error);
    }

    private static Exception Innermost(Exception error) => error.InnerException is { } inner ? Innermost(inner) : error;
}
