using System.Net.Http.Headers;

namespace Cursiva.Core.Http;

/// <summary>The answer to a request, its body whole in memory, or a stream that is still to be read.</summary>
/// <param name="contentHeaders">The headers that speak of the body.</param>
public sealed class Answer(
    int status,
    HttpResponseHeaders headers,
    HttpContentHeaders? contentHeaders,
    PageBuffer body,
    TimeSpan took,
    Stream? stream = null) : IDisposable
{
    private const int BeginningOfPage = 400;

    private Action? _read;

    /// <summary>The status code, 100 to 599.</summary>
    public int Status { get; } = status;

    /// <summary>Whether the status is 200 to 299.</summary>
    public bool IsSuccess => Status is >= 200 and < 300;

    /// <summary>The header fields of the answer.</summary>
    public HttpResponseHeaders Headers { get; } = headers;

    /// <summary>The header fields about the body; null where there is none.</summary>
    public HttpContentHeaders? ContentHeaders { get; } = contentHeaders;

    /// <summary>The media type without parameters, lower case; empty when the answer names none.</summary>
    public string ContentType { get; } = contentHeaders?.ContentType?.MediaType?.ToLowerInvariant() ?? "";

    /// <summary>The body that was read; empty for an answer that is streamed.</summary>
    public PageBuffer Body { get; } = body;

    /// <summary>The body, where it is read as a stream.</summary>
    public Stream? Stream { get; } = stream;

    /// <summary>What has been read of <see cref="Stream"/>, where a trace keeps it.</summary>
    internal CopyStream? Copy { get; init; }

    /// <summary>What tells the key by which it was verified; null where it was not.</summary>
    public string? VerifiedBy { get; init; }

    /// <summary>The same answer with another body, as it was before it was encrypted or signed.</summary>
    public Answer With(PageBuffer body, Stream? stream, string? verifiedBy) => new(Status, Headers, ContentHeaders, body, Took, stream)
    {
        VerifiedBy = verifiedBy,
        _read = Interlocked.Exchange(ref _read, null),
    };

    /// <summary>From sending the request to having the whole body, or the headers of a stream.</summary>
    public TimeSpan Took { get; } = took;

    /// <summary>Whether the body is a web page. JSON is none, whatever its content type says; nor is any other XML.</summary>
    public bool IsHtml
    {
        get
        {
            var start = Body.Text(BeginningOfPage).TrimStart('\uFEFF', ' ', '\r', '\n', '\t');
            return start.Length > 0 && start[0] is not ('{' or '[')
                && (ContentType is "text/html" or "application/xhtml+xml"
                    || (start[0] == '<'
                        && (start.Contains("<html", StringComparison.OrdinalIgnoreCase)
                            || start.Contains("<!doctype html", StringComparison.OrdinalIgnoreCase))));
        }
    }

    /// <summary>The value of a header, wherever it stands; null when it is missing.</summary>
    public string? Header(string name) =>
        Headers.TryGetValues(name, out var values) || ContentHeaders?.TryGetValues(name, out values) == true
            ? string.Join(", ", values)
            : null;

    /// <summary>Has something done once the answer is read or dropped.</summary>
    public void WhenRead(Action action) => _read += action;

    /// <inheritdoc/>
    public void Dispose()
    {
        Body.Dispose();
        Stream?.Dispose();
        Interlocked.Exchange(ref _read, null)?.Invoke();
    }
}
