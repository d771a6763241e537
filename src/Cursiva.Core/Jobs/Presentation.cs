namespace Cursiva.Core.Jobs;

/// <summary>How a token is found in the answer and shown to the API.</summary>
public sealed record Presentation
{
    /// <summary>The header of RFC 9110 section 11.6.2.</summary>
    public const string Authorization = "Authorization";

    /// <summary>Where the token endpoint's answer has the token; null for <c>/access_token</c>.</summary>
    public JsonPointer? TokenAt { get; init; }

    /// <summary>The header that carries it.</summary>
    public string Header { get; init; } = Authorization;

    /// <summary>The word before it; empty for none, null for the answer's <c>token_type</c>.</summary>
    public string? Scheme { get; init; }

    /// <summary>Headers that go beside it. Values may be secret sources, and <c>{token/POINTER}</c> is filled in from the answer.</summary>
    public IReadOnlyDictionary<string, DeclaredValue> Beside { get; init; } = new Dictionary<string, DeclaredValue>();

    /// <summary>Whether a placeholder stands for a place of the token endpoint's answer.</summary>
    public static bool IsOfToken(string name) => name.StartsWith("token/", StringComparison.Ordinal);
}
