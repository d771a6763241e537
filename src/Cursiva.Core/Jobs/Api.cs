using System.Text.Json.Serialization;

namespace Cursiva.Core.Jobs;

/// <summary>One API: where it is, who signs in to it, and the manners it is treated with.</summary>
/// <param name="Identity">Name of an identity, or null when nobody signs in.</param>
/// <param name="Attempts">Times a request is tried before the run gives up, 1 to 100.</param>
/// <param name="Timeout">Longest wait for one whole answer.</param>
/// <param name="LargestPage">Largest answer that is accepted, in bytes.</param>
public sealed record Api(
    string Name,
    [property: JsonIgnore] Place Place,
    Uri Base,
    string? Identity,
    IReadOnlyDictionary<string, DeclaredValue> Headers,
    IReadOnlyDictionary<string, DeclaredValue> QueryParameters,
    Limits Limits,
    int Attempts,
    TimeSpan Timeout,
    long LargestPage)
{
    /// <summary>What shows whether the identity is let in; null when the job declares none.</summary>
    public Probe? Probe { get; init; }

    /// <summary>IANA name of the zone of times that come without an offset, or null.</summary>
    public string? Zone { get; init; }

    /// <summary>A PEM file with the certificate authorities that are trusted instead of the machine's, or null.</summary>
    public string? Trust { get; init; }

    /// <summary>Largest download or part of an export that is accepted, in bytes.</summary>
    public long LargestFile { get; init; } = 16L * 1024 * 1024 * 1024;

    /// <summary>Longest pause that the API may ask for.</summary>
    public TimeSpan LongestPause { get; init; } = TimeSpan.FromHours(1);

    /// <summary>Longest wait for a connection.</summary>
    public TimeSpan ConnectTimeout { get; init; } = TimeSpan.FromSeconds(20);

    /// <summary>Longest wait for the next byte of an answer.</summary>
    public TimeSpan IdleTimeout { get; init; } = TimeSpan.FromSeconds(60);

    /// <summary>Whether HTTP/2 is spoken where the server offers it.</summary>
    public bool MayUseHttp2 { get; init; }

    /// <summary>
    /// The base with places of the token endpoint's answer in it, as <c>{token/POINTER}</c>; null where <see cref="Base"/> is the base.
    /// </summary>
    public string? TokenBase { get; init; }

    /// <summary>The origins that a base from the token endpoint's answer may have.</summary>
    public IReadOnlyList<string> BaseWithin { get; init; } = [];

    /// <summary>How bodies are encrypted and answers opened; null for in the clear.</summary>
    public BodyEncryption? Encryption { get; init; }

    /// <summary>What of its exchange is signed; null for nothing.</summary>
    public Signatures? Signatures { get; init; }

    /// <summary>The API as a pull or a write asks it: what they say of encryption and signatures goes before what the API says.</summary>
    public Api For(BodyEncryption? encryption, Signatures? signatures) => encryption is null && signatures is null ? this : this with
    {
        Encryption = encryption ?? Encryption,
        Signatures = signatures?.Over(Signatures) ?? Signatures,
    };

    /// <summary>The base for people.</summary>
    [JsonIgnore]
    public string ShownBase => TokenBase ?? Base.AbsoluteUri;

    /// <summary>Further origins that links may lead to, and whether credentials go there.</summary>
    public IReadOnlyDictionary<string, bool> AlsoOrigins { get; init; } = new Dictionary<string, bool>();
}
