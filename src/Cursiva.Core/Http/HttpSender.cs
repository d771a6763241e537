using System.Buffers;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Sockets;
using System.Security.Authentication;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>Sends one request and reads the whole answer. Follows no redirect, keeps no cookie, retries nothing.</summary>
public sealed class HttpSender : IDisposable
{
    private readonly HttpClient _client;
    private readonly TimeProvider _clock;
    private readonly string _userAgent;
    private readonly IExchangeWatch? _trace;

    /// <param name="handler">What carries the requests; tests give their own.</param>
    /// <param name="trace">Is told every exchange; null for nobody.</param>
    public HttpSender(TimeProvider clock, HttpMessageHandler? handler = null, IExchangeWatch? trace = null)
    {
        _clock = clock;
        _trace = trace;
        _userAgent = "Cursiva/" + typeof(HttpSender).Assembly.GetName().Version?.ToString(2);
        _client = new HttpClient(handler ?? NewHandler()) { Timeout = Timeout.InfiniteTimeSpan };
    }

    /// <summary>What carries requests: it follows no redirect and keeps no cookie.</summary>
    /// <param name="connect">Longest wait for a connection; null for 20 s.</param>
    public static SocketsHttpHandler NewHandler(TimeSpan? connect = null) => new()
    {
        SslOptions = { RemoteCertificateValidationCallback = ServerCertificate.Check },
        AllowAutoRedirect = false,
        UseCookies = false,
        Proxy = new OutsideProxy(HttpClient.DefaultProxy),
        ConnectTimeout = connect ?? TimeSpan.FromSeconds(20),
        PooledConnectionIdleTimeout = TimeSpan.FromSeconds(60),
        AutomaticDecompression = DecompressionMethods.None,
        EnableMultipleHttp2Connections = true,

        // Values from rows may have any letters; servers that read them at all read UTF-8.
        RequestHeaderEncodingSelector = (_, _) => Encoding.UTF8,
    };

    /// <summary>Sends the request.</summary>
    /// <exception cref="TransportException">There was no complete answer.</exception>
    /// <exception cref="OperationCanceledException"><paramref name="cancel"/> was asked for.</exception>
    public async Task<Answer> SendAsync(Request request, Patience patience, CancellationToken cancel)
    {
        var began = _clock.GetUtcNow();
        try
        {
            var answer = await TrySendAsync(request, patience, cancel);
            if (answer.Copy is not null)
                answer.WhenRead(() => _trace?.Answered(request, answer, began));
            else
                _trace?.Answered(request, answer, began);
            return answer;
        }
        catch (TransportException error)
        {
            _trace?.Failed(request, error, began, _clock.GetUtcNow() - began);
            throw;
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _client.Dispose();

    private async Task<Answer> TrySendAsync(Request request, Patience patience, CancellationToken cancel)
    {
        using var message = Message(request);
        using var limit = new CancellationTokenSource(Waits.Timer(patience.Whole), _clock);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancel, limit.Token);
        var start = _clock.GetTimestamp();
        HttpResponseMessage? response = null;
        try
        {
            response = await _client.SendAsync(message, HttpCompletionOption.ResponseHeadersRead, either.Token);
            var answer = await ReadAsync(request, response, start, patience, either.Token);
            if (answer.Stream is null)
                response.Dispose();
            return answer;
        }
        catch (Exception error)
        {
            response?.Dispose();
            throw error switch
            {
                OperationCanceledException { InnerException: TimeoutException } when response is null && !either.IsCancellationRequested =>
                    new TransportException(Trouble.Unreachable, "no connection within connect-timeout:", error),
                OperationCanceledException when !cancel.IsCancellationRequested => new TransportException(
                    Trouble.Silent, limit.IsCancellationRequested || response is null
                        ? $"no complete answer within {patience.Whole.TotalSeconds:0.###} s"
                        : $"the answer stalled for {patience.Idle.TotalSeconds:0.###} s"),
                HttpRequestException http => Explain(request, http),
                IOException => new TransportException(Trouble.CutOff, "the connection broke before the answer was complete", error),
                InvalidDataException => new TransportException(Trouble.CutOff, "the compressed answer is damaged", error),
                _ => error,
            };
        }
    }

    private HttpRequestMessage Message(Request request)
    {
        var message = new HttpRequestMessage(request.Method, request.SentTo)
        {
            Version = request is { MayUseHttp2: true, SentTo.Scheme: "https" } ? HttpVersion.Version20 : HttpVersion.Version11,
            VersionPolicy = HttpVersionPolicy.RequestVersionOrLower,
        };
        message.Headers.TryAddWithoutValidation("User-Agent", _userAgent);
        if (!request.Verbatim && !request.Uncompressed)
            message.Headers.TryAddWithoutValidation("Accept-Encoding", Packing.Accepted);
        if (request.Form is { } form)
            message.Content = request.FormAsJson ? Json(form) : new FormUrlEncodedContent(form);
        else if (request.Body is { } body)
            message.Content = new ByteArrayContent(body) { Headers = { ContentType = MediaTypeHeaderValue.Parse(request.BodyType) } };
        else if (request.Parts is { } parts)
            message.Content = new PartsContent(parts) { Headers = { ContentType = MediaTypeHeaderValue.Parse(request.BodyType) } };
        foreach (var (name, value) in request.Headers)
        {
            Check(request, name, value);
            if (!message.Headers.TryAddWithoutValidation(name, value))
                message.Content?.Headers.TryAddWithoutValidation(name, value);
        }

        return message;
    }

    // The last look before anything leaves: a line break would begin another header, or another request (RFC 9112 section 11.2).
    private static void Check(Request request, string name, string value)
    {
        if (Confines.IsHeaderName(name) && Confines.Header(value) is null)
            return;
        throw new RefusedException(new Refusal(
            Outcome.ApiFailed,
            Confines.IsHeaderName(name)
                ? $"the header {name} would contain {Confines.Header(value)}; nothing was sent"
                : "a header would have an invalid name; nothing was sent")
        {
            Cause = "a value filled into the header comes from a row, an answer or a secret, and has more than one line",
            NextStep = "exclude such rows, or store the secret without its line break: printf '%s' instead of echo",
            Request = request.ToString(),
        });
    }

    private async Task<Answer> ReadAsync(
        Request request, HttpResponseMessage response, long start, Patience patience, CancellationToken cancel)
    {
        var content = response.Content.Headers;
        var raw = await response.Content.ReadAsStreamAsync(cancel);
        var stream = request.Verbatim ? raw : Packing.Unpack(raw, content.ContentEncoding);
        if (request.Streams && response.IsSuccessStatusCode)
        {
            var copy = _trace is null ? null : new CopyStream(stream, HarTrace.LargestBody);
            return new Answer(
                (int)response.StatusCode,
                response.Headers,
                content,
                PageBuffer.Of([]),
                _clock.GetElapsedTime(start),
                new AnswerStream(copy ?? stream, patience.Idle, _clock, response))
            {
                Copy = copy,
            };
        }

        var body = new PageBuffer((int)Math.Min(content.ContentLength ?? 32 * 1024, patience.Largest) + 1);
        using var silence = new CancellationTokenSource(Waits.Timer(patience.Idle), _clock);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancel, silence.Token);
        try
        {
            await body.FillAsync(stream, patience.Largest, () => silence.CancelAfter(Waits.Timer(patience.Idle)), either.Token);
            await stream.DisposeAsync();
            body = request.Verbatim ? body : BodyCharset.AsUtf8(body, content);
            return new Answer((int)response.StatusCode, response.Headers, content, body, _clock.GetElapsedTime(start));
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

    private static TransportException Explain(Request request, HttpRequestException error)
    {
        if (error.InnerException is AuthenticationException or IOException
            && error.HttpRequestError == HttpRequestError.SecureConnectionError)
            return new TransportException(Trouble.Tls, $"TLS failed: {Innermost(error).Message}", error);
        if (error.InnerException is SocketException socket)
        {
            return new TransportException(Trouble.Unreachable, socket.SocketErrorCode switch
            {
                SocketError.ConnectionRefused => $"connection refused at {request.Uri.Authority}",
                SocketError.HostNotFound or SocketError.TryAgain or SocketError.NoData => $"unknown host {request.Uri.Host}",
                _ => socket.Message,
            }, error);
        }

        return error.HttpRequestError is HttpRequestError.ResponseEnded or HttpRequestError.InvalidResponse or HttpRequestError.Unknown
            ? new TransportException(Trouble.CutOff, "the connection broke before the answer was complete", error)
            : new TransportException(Trouble.Unreachable, error.Message, error);
    }

    private static Exception Innermost(Exception error) => error.InnerException is { } inner ? Innermost(inner) : error;
}
