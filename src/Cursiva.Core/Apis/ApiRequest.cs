using Cursiva.Core.Http;

namespace Cursiva.Core.Apis;

/// <summary>A request to a declared API, before its headers and credentials are added.</summary>
public sealed record ApiRequest(HttpMethod Method, Uri Uri)
{
    /// <summary>Headers that the job declares: they go to the API's own origin alone.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Headers { get; init; } = [];

    /// <summary>Headers of our own making, such as Range: they go wherever the request goes.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> OwnHeaders { get; init; } = [];

    /// <summary>Query parameters that are secrets; see <see cref="Http.Request.SecretQuery"/>.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> SecretQuery { get; init; } = [];

    /// <summary>The body as it is sent; null for none.</summary>
    public byte[]? Body { get; init; }

    /// <summary>The body in parts that are sent as they are read; null for none, and where there is another body.</summary>
    public IReadOnlyList<BodyPart>? Parts { get; init; }

    /// <summary>The media type of the body.</summary>
    public string BodyType { get; init; } = "application/json";

    /// <summary>The media types asked for.</summary>
    public string Accept { get; init; } = "application/json";

    /// <summary>Whether a successful answer is handed over as a stream.</summary>
    public bool Streams { get; init; }

    /// <summary>Whether the body is wanted as it is, a web page included.</summary>
    public bool Verbatim { get; init; }

    /// <summary>Whether it must not be sent twice when it is not known whether it arrived.</summary>
    public bool Once { get; init; }

    /// <summary>Whether it is finished once it has begun to leave, whoever stops the run (promise 15).</summary>
    public bool Finishes { get; init; }

    /// <summary>Whether the body goes to an origin without credentials, too: it is meant for an address that the API gave.</summary>
    public bool Bare { get; init; }

    /// <summary>Is shown the final answer, good or refused, and none that is followed by another attempt; null for nobody.</summary>
    public Action<Answer>? Sees { get; init; }

    /// <summary>Which unsuccessful answers the caller deals with; null for none.</summary>
    public Func<Answer, bool>? Expects { get; init; }
}
