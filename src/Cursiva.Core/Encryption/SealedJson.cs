using System.Text;
using System.Text.Json;

namespace Cursiva.Core.Encryption;

/// <summary>Reads the JSON forms of JWE, general and flattened (RFC 7516 section 7.2), of which one recipient's key is one's own.</summary>
internal static class SealedJson
{
    private static readonly JsonDocumentOptions s_strict = new() { AllowDuplicateProperties = false };

    /// <summary>What each recipient gets, as it stands in the text.</summary>
    /// <exception cref="PayloadException">It is not a JWE in a JSON form.</exception>
    public static IReadOnlyList<SealedParts> Read(ReadOnlySpan<byte> text)
    {
        try
        {
            using var document = JsonDocument.Parse(text.ToArray(), s_strict);
            var whole = document.RootElement;
            var encoded = Text(whole, "protected") ?? "";
            using var header = encoded.Length > 0 ? ProtectedHeader.Read(encoded) : null;
            var aad = Text(whole, "aad") is { } further ? $"{encoded}.{further}" : encoded;
            var recipients = whole.TryGetProperty("recipients", out var several) ? [.. several.EnumerateArray()] : new[] { whole };
            return [.. recipients.Select(recipient => Of(whole, recipient, header, aad))];
        }
        catch (Exception error) when (error is JsonException or InvalidOperationException)
        {
            throw new PayloadException(SealedParts.NoJwe, error);
        }
    }

    private static SealedParts Of(JsonElement whole, JsonElement recipient, ProtectedHeader? header, string aad)
    {
        string? Member(string name)
        {
            string?[] places = [header?.Member(name), Inside(whole, "unprotected", name), Inside(recipient, "header", name)];
            return places.Where(place => place is not null).ToList() is { Count: > 1 }
                ? throw new PayloadException($"its headers have {name} twice (RFC 7516 section 7.2.1)")
                : places.FirstOrDefault(place => place is not null);
        }

        if (header?.Has("zip") == true)
            throw new PayloadException("it is compressed (zip), which is not supported");
        return new SealedParts(header?.Text ?? "{}", Member("alg"), Member("enc"), Member("kid"), aad)
        {
            Wrapped = Base64.FromUrl(Text(recipient, "encrypted_key") ?? ""),
            Vector = Base64.FromUrl(Text(whole, "iv") ?? ""),
            Cipher = Base64.FromUrl(Text(whole, "ciphertext") ?? throw new PayloadException(SealedParts.NoJwe)),
            Tag = Base64.FromUrl(Text(whole, "tag") ?? ""),
        };
    }

    private static string? Inside(JsonElement of, string group, string name) =>
        of.TryGetProperty(group, out var members) ? Text(members, name) : null;

    private static string? Text(JsonElement of, string name) => of.TryGetProperty(name, out var value) ? value.GetString() : null;
}
