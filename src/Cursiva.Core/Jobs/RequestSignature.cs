using System.Text.Json.Serialization;

namespace Cursiva.Core.Jobs;

/// <summary>How requests are signed.</summary>
/// <param name="Form">One of <see cref="SignatureForms.OfRequests"/>.</param>
public sealed record RequestSignature(string Form, KeySource Key)
{
    /// <summary>The algorithm; null for the usual one of the key.</summary>
    public string? Algorithm { get; init; }

    /// <summary>The header that carries the signature.</summary>
    public string Header { get; init; } = "";

    /// <summary>What a signature of an HTTP message covers: names of fields, and derived components (RFC 9421 section 2).</summary>
    public IReadOnlyList<string> Covers { get; init; } = [];

    /// <summary>The text whose HMAC is sent, with <see cref="TextNames"/> as placeholders; null for another form.</summary>
    public Template? Text { get; init; }

    /// <summary>Further headers, with the same placeholders: the time and the nonce that the text has.</summary>
    public IReadOnlyList<KeyValuePair<string, Template>> Beside { get; init; } = [];

    /// <summary>Whether the HMAC is written in hex instead of base64.</summary>
    public bool InHex { get; init; }

    /// <summary>The placeholders of <see cref="Text"/>.</summary>
    [JsonIgnore]
    public static IReadOnlyList<string> TextNames { get; } =
    [
        "method",
        "address",
        "host",
        "path",
        "query",
        "time",
        "unix-time",
        "nonce",
        "body",
        "body-sha256",
        "body-sha256-hex",
    ];
}
