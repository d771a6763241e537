using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>What a token endpoint answered (RFC 6749 sections 5.1 and 5.2), read leniently.</summary>
/// <param name="Json">The answer; null when it is not a JSON object.</param>
internal sealed record TokenAnswer(JsonElement? Json)
{
    private const int MostNames = 20;
    private const int LongestName = 40;

    public bool IsJson => Json is not null;

    public string? TokenType => Text("token_type");

    public string? RefreshToken => Text("refresh_token");

    public string? IdToken => Text("id_token");

    public string? Scope => Text("scope");

    /// <summary>Whether it is an error as RFC 6749 section 5.2 forms it, and nothing else.</summary>
    public bool IsError =>
        Error is { Length: > 0 }
            && Json is { } root
            && !root.EnumerateObject().Any(
                member => member.Name.EndsWith("_token", StringComparison.Ordinal) || member.Name is "token" or "access");

    public string? Error => Text("error");

    public string? ErrorDescription => Text("error_description");

    /// <summary>
    /// The words of an error that is an object of its own, as older schemes answer; null for none. An answer with a token has none.
    /// </summary>
    public string? ErrorWords => Json is { } root && root.TryGetProperty("error", out var error) && error.ValueKind == JsonValueKind.Object
        ? string.Join(": ", error.EnumerateObject().Select(member => Write(member.Value)).OfType<string>().Take(3))
        : null;

    /// <summary>How long the token is good for; null when the server does not say. Some servers send the number as a string.</summary>
    public TimeSpan? ExpiresIn => Seconds("expires_in");

    /// <summary>Seconds of a field, above zero.</summary>
    public TimeSpan? Seconds(string name) =>
        double.TryParse(Text(name), NumberStyles.Float, CultureInfo.InvariantCulture, out var seconds) && seconds is > 0 and < 1e9
            ? TimeSpan.FromSeconds(seconds)
            : null;

    /// <summary>The access token, at its place.</summary>
    public string? AccessToken(Presentation presentation) => presentation.TokenAt is { } place ? At(place) : Text("access_token");

    /// <summary>The text or number at a place of the answer.</summary>
    public string? At(JsonPointer place) => Json is { } root && place.Find(root) is { } found ? Write(found) : null;

    /// <summary>The text or number of a field.</summary>
    public string? Text(string name) => Json is { } root && root.TryGetProperty(name, out var value) ? Write(value) : null;

    /// <summary>
    /// What can be told of an answer without giving anything of it away: status, type, size, and the names of its members.
    /// </summary>
    public string Describe(Answer answer)
    {
        var type = answer.ContentType.Length > 0 ? answer.ContentType : "no content type";
        var size = string.Create(CultureInfo.InvariantCulture, $"{answer.Body.Length:N0} {(answer.Body.Length == 1 ? "byte" : "bytes")}");
        return $"status {answer.Status}, {type}, {size}{(MemberNames.Count > 0 ? $", members: {string.Join(", ", MemberNames)}" : "")}";
    }

    /// <summary>The names of the first members; anything that does not look like a name is omitted.</summary>
    public IReadOnlyList<string> MemberNames => Json is not { } root ? [] :
        [.. root.EnumerateObject()
            .Select(member => member.Name)
            .Where(name => name.Length <= LongestName && name.All(c => char.IsLetterOrDigit(c) || c is '_' or '-' or '.'))
            .Take(MostNames)];

    public static TokenAnswer Read(PageBuffer body)
    {
        try
        {
            var reader = new Utf8JsonReader(body.Content);
            using var document = JsonDocument.ParseValue(ref reader);
            return new TokenAnswer(document.RootElement.ValueKind == JsonValueKind.Object ? document.RootElement.Clone() : null);
        }
        catch (JsonException)
        {
            return new TokenAnswer((JsonElement?)null);
        }
    }

    private static string? Write(JsonElement value) => value.ValueKind switch
    {
        JsonValueKind.String => value.GetString(),
        JsonValueKind.Number => value.GetRawText(),
        _ => null,
    };
}
