using System.Net.Http.Headers;

namespace Cursiva.Core.Http;

/// <summary>The answer to a request, its body whole in memory.</summary>
public sealed class Answer(int status, HttpResponseHeaders headers, string contentType, PageBuffer body, TimeSpan took) : IDisposable
{
    public int Status { get; } = status;

    public bool IsSuccess => Status is >= 200 and < 300;

    public HttpResponseHeaders Headers { get; } = headers;

    /// <summary>The media type without parameters, lower case; empty when the answer names none.</summary>
    public string ContentType { get; } = contentType;

    public PageBuffer Body { get; } = body;

    /// <summary>From sending the request to having the whole body.</summary>
    public TimeSpan Took { get; } = took;

    /// <summary>Whether the body is a web page, whatever its content type says.</summary>
    public bool IsHtml => ContentType is "text/html" or "application/xhtml+xml" || Body.Text(200).TrimStart('\uFEFF', ' ', '\r', '\n', '\t').StartsWith('<');

    public void Dispose() => Body.Dispose();
}
