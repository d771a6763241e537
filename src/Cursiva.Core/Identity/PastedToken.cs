using System.Text.Json;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>
/// A token as people paste it: behind its header and scheme, in quotes, wrapped over lines, or inside a token endpoint's answer.
/// </summary>
public static class PastedToken
{
    /// <summary>The token alone.</summary>
    /// <exception cref="RefusedException">It has characters that no token has (RFC 6750 section 2.1).</exception>
    public static string Read(string pasted)
    {
        var text = Inside(pasted.Trim());
        text = Without(text.Trim(s_around), "Authorization:").Trim(s_around);
        text = Without(text, "Bearer ").Trim(s_around);
        text = string.Concat(text.Where(c => !char.IsWhiteSpace(c)));
        if (text.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '.' or '_' or '~' or '+' or '/' or '=' or ':' or '|' or '!' or '$'))
            return text;
        throw new RefusedException(new Refusal(Outcome.WrongCommandLine, "this is not a token: it has characters that tokens cannot have")
        {
            NextStep = "paste only the token, or the header that carries it; it was sent nowhere",
        });
    }

    private static readonly char[] s_around = [' ', '\t', '\r', '\n', '"', '\'', '`', ',', ';', '<', '>'];

    private static string Without(string text, string prefix) =>
        text.StartsWith(prefix, StringComparison.OrdinalIgnoreCase) ? text[prefix.Length..] : text;

    // The whole answer of a token endpoint is pasted as well.
    private static string Inside(string text)
    {
        if (!text.StartsWith('{'))
            return text;
        try
        {
            using var document = JsonDocument.Parse(text);
            return document.RootElement.TryGetProperty("access_token", out var token) && token.ValueKind == JsonValueKind.String
                ? token.GetString()!
                : text;
        }
        catch (JsonException)
        {
            return text;
        }
    }
}
