using System.Text.Json;

namespace Cursiva.Core.Identity;

/// <summary>A JSON Web Token (RFC 7519) in compact form, taken apart; nothing in it is believed.</summary>
/// <param name="Signed">The part that the signature is over.</param>
public sealed record Jwt(JsonElement Header, JsonElement Claims, string Signed, byte[] Signature)
{
    // Tokens come from outside: deep nesting must not cost the stack.
    private static readonly JsonDocumentOptions s_options = new() { MaxDepth = 32 };

    /// <summary>From <c>iat</c> to <c>exp</c>; null when one is missing.</summary>
    public TimeSpan? Lifetime => Time("exp") is { } end && Time("iat") is { } start && end > start ? end - start : null;

    /// <summary>Reads a token; null when the text is none.</summary>
    public static Jwt? TryRead(string text)
    {
        var parts = text.Trim().Split('.');
        if (parts.Length != 3 || parts[0].Length == 0 || Base64UrlText.TryRead(parts[2]) is not { } signature)
            return null;
        return Part(parts[0]) is { } header && Part(parts[1]) is { } claims
            ? new Jwt(header, claims, parts[0] + "." + parts[1], signature)
            : null;
    }

    /// <summary>The text of a claim; null when it is missing or no text.</summary>
    public string? Text(string claim) =>
        Claims.TryGetProperty(claim, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString() : null;

    /// <summary>The texts of a claim: a list, or words between spaces.</summary>
    public IReadOnlyList<string> Texts(string claim)
    {
        if (!Claims.TryGetProperty(claim, out var value))
            return [];
        return value.ValueKind switch
        {
            JsonValueKind.String => value.GetString()!.Split(' ', StringSplitOptions.RemoveEmptyEntries),
            JsonValueKind.Array =>
                [.. value.EnumerateArray().Where(item => item.ValueKind == JsonValueKind.String).Select(item => item.GetString()!)],
            _ => [],
        };
    }

    /// <summary>The time of a claim (RFC 7519 section 2, NumericDate); null when it is missing or no time.</summary>
    public DateTimeOffset? Time(string claim) =>
        Claims.TryGetProperty(claim, out var value) && value.ValueKind == JsonValueKind.Number && value.TryGetDouble(
            out var seconds) && seconds is >= 0 and < 253402300800
            ? DateTimeOffset.UnixEpoch.AddSeconds(seconds)
            : null;

    private static JsonElement? Part(string text)
    {
        if (Base64UrlText.TryRead(text) is not { } bytes)
            return null;
        try
        {
            using var document = JsonDocument.Parse(bytes, s_options);
            return document.RootElement.ValueKind == JsonValueKind.Object ? document.RootElement.Clone() : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
