using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Http;

/// <summary>
/// Writes every exchange into a file in the HAR 1.2 format, an entry at a time, with secrets removed: headers that carry credentials
/// are masked whole, of requests for tokens every name is shown and no secret, and whatever else contains a known secret is cleaned.
/// </summary>
public sealed class HarTrace : IExchangeWatch, IDisposable
{
    /// <summary>The longest body that a trace keeps, in bytes.</summary>
    public const int LargestBody = 64 * 1024 * 1024;

    private const string LeftOut = "omitted, since it contains secrets";

    private static readonly string[] s_masked = ["Authorization", "Proxy-Authorization", "Cookie", "Set-Cookie"];
    private static readonly JsonWriterOptions s_plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private readonly Stream _file;
    private readonly Redactor _redactor;
    private readonly Lock _gate = new();
    private bool _hasEntries;

    /// <param name="file">Takes the trace; is closed with it.</param>
    public HarTrace(Stream file, Redactor redactor, string version)
    {
        _file = file;
        _redactor = redactor;
        _file.Write(
            Encoding.UTF8.GetBytes($$"""{"log":{"version":"1.2","creator":{"name":"Cursiva","version":"{{version}}"},"entries":["""));
    }

    /// <inheritdoc/>
    public void Answered(Request request, Answer answer, DateTimeOffset began) => Write(request, began, answer.Took, writer =>
    {
        writer.WriteNumber("status", answer.Status);
        writer.WriteString("statusText", ((System.Net.HttpStatusCode)answer.Status).ToString());
        writer.WriteString("httpVersion", "HTTP/1.1");
        writer.WriteStartArray("cookies");
        writer.WriteEndArray();
        Headers(
            writer,
            answer.Headers.Concat(answer.ContentHeaders ?? (IEnumerable<KeyValuePair<string, IEnumerable<string>>>)[]).Select(
                header => KeyValuePair.Create(header.Key, string.Join(", ", header.Value))));
        writer.WriteStartObject("content");
        writer.WriteNumber("size", answer.Body.Length);
        writer.WriteString("mimeType", answer.ContentType);
        if (request.Form is not null && TracedForm.Answer(answer, _redactor) is { } shown)
            writer.WriteString("text", shown);
        else if (request.Form is not null)
            writer.WriteString("comment", LeftOut);
        else if ((answer.Stream is null ? answer.Body.Content.ToArray() : answer.Copy?.Copied) is { Length: <= LargestBody } body)
            Body(writer, body, request.Verbatim && answer.ContentHeaders?.ContentEncoding.Count > 0);
        else
            writer.WriteString("comment", "omitted, since it is long");
        writer.WriteEndObject();
        writer.WriteString("redirectURL", answer.Headers.Location is { } to ? _redactor.Clean(ShownAddress.Of(to)) : "");
        writer.WriteNumber("headersSize", -1);
        writer.WriteNumber(
            "bodySize", long.TryParse(answer.Header("Content-Length"), CultureInfo.InvariantCulture, out var length) ? length : -1);
    });

    /// <inheritdoc/>
    public void Failed(Request request, TransportException error, DateTimeOffset began, TimeSpan took) =>
        Write(request, began, took, writer =>
    {
        writer.WriteNumber("status", 0);
        writer.WriteString("statusText", "");
        writer.WriteString("httpVersion", "");
        writer.WriteStartArray("cookies");
        writer.WriteEndArray();
        Headers(writer, []);
        writer.WriteStartObject("content");
        writer.WriteNumber("size", 0);
        writer.WriteString("mimeType", "");
        writer.WriteEndObject();
        writer.WriteString("redirectURL", "");
        writer.WriteNumber("headersSize", -1);
        writer.WriteNumber("bodySize", -1);
        writer.WriteString("comment", _redactor.Clean(error.Message));
    });

    /// <summary>What a rehearsal has to know beside the exchanges, as JSON; null for nothing.</summary>
    public string? Notes { get; set; }

    /// <inheritdoc/>
    public void Dispose()
    {
        lock (_gate)
        {
            _file.Write("\n]"u8);
            if (Notes is not null)
                _file.Write(Encoding.UTF8.GetBytes($",\"{Recording.NotesMember}\":{_redactor.Clean(Notes)}"));
            _file.Write("}}\n"u8);
            _file.Dispose();
        }
    }

    // What is not text is kept in base64, unless a secret is in it.
    private void Body(Utf8JsonWriter writer, byte[] body, bool isPacked)
    {
        if (!isPacked && System.Text.Unicode.Utf8.IsValid(body))
        {
            writer.WriteString("text", ShownAddress.InText(_redactor.Clean(Encoding.UTF8.GetString(body))));
            return;
        }

        var text = Encoding.Latin1.GetString(body);
        if (_redactor.Clean(text) != text)
        {
            writer.WriteString("comment", LeftOut);
            return;
        }

        writer.WriteBase64String("text", body);
        writer.WriteString("encoding", "base64");
        if (isPacked)
            writer.WriteBoolean(Recording.PackedMember, true);
    }

    private void Write(Request request, DateTimeOffset began, TimeSpan took, Action<Utf8JsonWriter> response)
    {
        var bytes = new ArrayBufferWriter<byte>();
        using (var writer = new Utf8JsonWriter(bytes, s_plain))
        {
            var milliseconds = Math.Round(took.TotalMilliseconds, 3);
            writer.WriteStartObject();
            writer.WriteString("startedDateTime", began.ToString("O", CultureInfo.InvariantCulture));
            writer.WriteNumber("time", milliseconds);
            writer.WriteStartObject("request");
            Request(writer, request);
            writer.WriteEndObject();
            writer.WriteStartObject("response");
            response(writer);
            writer.WriteEndObject();
            writer.WriteStartObject("cache");
            writer.WriteEndObject();
            writer.WriteStartObject("timings");
            writer.WriteNumber("send", 0);
            writer.WriteNumber("wait", milliseconds);
            writer.WriteNumber("receive", 0);
            writer.WriteEndObject();
            writer.WriteEndObject();
        }

        lock (_gate)
        {
            _file.Write(_hasEntries ? ",\n"u8 : "\n"u8);
            _hasEntries = true;
            _file.Write(bytes.WrittenSpan);
            _file.Flush();
        }
    }

    private void Request(Utf8JsonWriter writer, Request request)
    {
        writer.WriteString("method", request.Method.Method);
        writer.WriteString("url", _redactor.Clean(ShownAddress.Of(request.Uri)));
        writer.WriteString("httpVersion", "HTTP/1.1");
        writer.WriteStartArray("cookies");
        writer.WriteEndArray();
        Headers(writer, request.Headers);
        writer.WriteStartArray("queryString");
        foreach (var part in request.Uri.Query.TrimStart('?').Split('&', StringSplitOptions.RemoveEmptyEntries))
        {
            var pair = part.Split('=', 2);
            var name = Uri.UnescapeDataString(pair[0]);
            Pair(
                writer,
                name,
                pair.Length < 2 ? "" : ShownAddress.IsMasked(name) ? Redactor.Mask : _redactor.Clean(
                    Uri.UnescapeDataString(pair[1].Replace('+', ' '))));
        }

        writer.WriteEndArray();
        writer.WriteNumber("headersSize", -1);
        writer.WriteNumber("bodySize", request.Body?.Length ?? -1);
        if (request.Form is null && request.Body is null)
            return;
        writer.WriteStartObject("postData");
        writer.WriteString(
            "mimeType",
            request.Form is null ? request.BodyType : request.FormAsJson ? "application/json" : "application/x-www-form-urlencoded");
        if (request.Form is { } form)
        {
            writer.WriteStartArray("params");
            foreach (var (name, value) in form)
                Pair(writer, name, TracedForm.Value(name, value, _redactor));
            writer.WriteEndArray();
        }

        writer.WriteString("text", request.Form is null ? _redactor.Clean(Encoding.UTF8.GetString(request.Body!)) : "");
        writer.WriteEndObject();
    }

    private void Headers(Utf8JsonWriter writer, IEnumerable<KeyValuePair<string, string>> headers)
    {
        writer.WriteStartArray("headers");
        foreach (var (name, value) in headers)
            Pair(
                writer,
                name,
                s_masked.Contains(name, StringComparer.OrdinalIgnoreCase) ? Redactor.Mask : ShownAddress.InText(_redactor.Clean(value)));
        writer.WriteEndArray();
    }

    private static void Pair(Utf8JsonWriter writer, string name, string value)
    {
        writer.WriteStartObject();
        writer.WriteString("name", name);
        writer.WriteString("value", value);
        writer.WriteEndObject();
    }
}
