namespace Cursiva.Core.Http;

/// <summary>One request, ready to be sent any number of times.</summary>
/// <param name="Form">Form parameters of a POST, or null for a request without them.</param>
public sealed record Request(
    HttpMethod Method,
    Uri Uri,
    IReadOnlyList<KeyValuePair<string,
    string>> Headers,
    IReadOnlyList<KeyValuePair<string,
    string>>? Form = null)
{
    /// <summary>Whether the parameters go as a JSON object instead of a form.</summary>
    public bool FormAsJson { get; init; }

    /// <summary>The body where there is no form; null for none.</summary>
    public byte[]? Body { get; init; }

    /// <summary>The body in parts that are sent as they are read; null for none, and where there is another body.</summary>
    public IReadOnlyList<BodyPart>? Parts { get; init; }

    /// <summary>The media type of <see cref="Body"/>.</summary>
    public string BodyType { get; init; } = "application/json";

    /// <summary>Whether a successful answer is handed over as a stream instead of being read whole.</summary>
    public bool Streams { get; init; }

    /// <summary>Whether the body as it is sent, compressed or not, is wanted: for files.</summary>
    public bool Verbatim { get; init; }

    /// <summary>Whether no compression is offered, since a digest of the content as it is sent counts (RFC 9530).</summary>
    public bool Uncompressed { get; init; }

    /// <summary>Whether HTTP/2 is spoken where the server offers it (RFC 9113 section 3.2).</summary>
    public bool MayUseHttp2 { get; init; }

    /// <summary>
    /// Query parameters that are secrets: they are added to the address when it is sent, and stand in no address that is shown or kept.
    /// </summary>
    public IReadOnlyList<KeyValuePair<string, string>> SecretQuery { get; init; } = [];

    /// <summary>The address as it is sent.</summary>
    public Uri SentTo => SecretQuery.Aggregate(Uri, (address, parameter) => AddressQuery.With(address, parameter.Key, parameter.Value));

    /// <summary>Method and address, for people.</summary>
    public override string ToString() => $"{Method} {ShownAddress.Of(Uri)}";
}
