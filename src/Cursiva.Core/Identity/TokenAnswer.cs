using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Http;

namespace Cursiva.Core.Identity;

/// <summary>What a token endpoint answered (RFC 6749 sections 5.1 and 5.2), read leniently.</summary>
/// <param name="ExpiresIn">Null when the server does not say.</param>
/// <param name="IsJson">Whether the answer was a JSON object at all.</param>
internal sealed record TokenAnswer(string? AccessToken, string? TokenType, TimeSpan? ExpiresIn, string? Error, string? ErrorDescription, bool IsJson)
{
    public static TokenAnswer Read(PageBuffer body)
    {
        try
        {
            var reader = new Utf8JsonReader(body.Content);
            using var document = JsonDocument.ParseValue(ref reader);
            if (document.RootElement.ValueKind != JsonValueKind.Object)
                return new TokenAnswer(null, null, null, null, null, IsJson: false);

            var root = document.RootElement;
            return new TokenAnswer(Text(root, "access_token"), Text(root, "token_type"), Seconds(root), Text(root, "error"), Text(root, "error_description"), IsJson: true);
        }
        catch (JsonException)
        {
            return new TokenAnswer(null, null, null, null, null, IsJson: false);
        }
    }

    private static string? Text(JsonElement root, string name) =>
        root.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString() : null;

    // Some servers send the number as a string.
    private static TimeSpan? Seconds(JsonElement root)
    {
        if (!root.TryGetProperty("expires_in", out var value) || value.ValueKind is not (JsonValueKind.Number or JsonValueKind.String))
            return null;
        var text = value.ValueKind == JsonValueKind.String ? value.GetString() : value.GetRawText();
        return double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var seconds) && seconds is > 0 and < 1e9 ? TimeSpan.FromSeconds(seconds) : null;
    }
}
