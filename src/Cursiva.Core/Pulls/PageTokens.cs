using System.Globalization;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>What stands at the tokens of an indexed page.</summary>
internal static class PageTokens
{
    /// <summary>What is told of a token that is not the one expected.</summary>
    public static PageException Wrong(PageBuffer page, TokenIndex index, int token, string expected) =>
        new(index.Places[Math.Min(token, index.Count)] >= page.Length
            ? $"not JSON: the page is cut off after {page.Length} bytes, and {expected} should follow"
            : $"not JSON: {expected} should be at byte {index.Places[token] + 1}");

    /// <summary>The text or number at a token; null for nothing, null, false and an empty text.</summary>
    public static string? Text(PageBuffer page, TokenIndex index, int token)
    {
        if (token < 0)
            return null;
        if (First(page, index, token) != '"')
            return Scalar(page, index, token) is var word && word is "null" or "false" ? null : word;
        var text = PageWords.Unescape(Inside(page, index, token));
        return text.Length == 0 ? null : text;
    }

    /// <summary>The values at tokens as a position (<see cref="SentValues"/>); null where none of them leads on.</summary>
    public static string? Cursor(PageBuffer page, TokenIndex index, IReadOnlyList<int> tokens)
    {
        var values = tokens.Select(token => Raw(page, index, token)).ToList();
        return values.TrueForAll(value => value is null) ? null : SentValues.Join([.. values.Select(value => value ?? "null")]);
    }

    // The JSON of a value; null for nothing, null, false, and an empty text, object or array.
    private static string? Raw(PageBuffer page, TokenIndex index, int token)
    {
        if (token < 0)
            return null;
        if (First(page, index, token) is not ((byte)'{' or (byte)'['))
            return First(page, index, token) != '"'
                ? Text(page, index, token)
                : Inside(page, index, token) is { Length: > 0 } text ? $"\"{Encoding.UTF8.GetString(text)}\"" : null;
        var reader = new Utf8JsonReader(page.Content[index.Places[token]..]);
        if (!JsonDocument.TryParseValue(ref reader, out var value))
            return null;
        using (value)
            return value.RootElement.ValueKind == JsonValueKind.Object
                ? NotEmpty(value.RootElement.EnumerateObject().Any(), value)
                : NotEmpty(value.RootElement.GetArrayLength() > 0, value);
    }

    private static string? NotEmpty(bool any, JsonDocument value) =>
        any ? System.Text.Json.Nodes.JsonNode.Parse(value.RootElement.GetRawText())!.ToJsonString() : null;

    /// <summary>The address of a link in the array at a token; null when none of them is the one.</summary>
    /// <exception cref="PageException">There is no array of links.</exception>
    public static string? Link(PageBuffer page, TokenIndex index, int token, Jobs.LinkChoice choice)
    {
        if (token < 0 || First(page, index, token) == 'n')
            return null;
        var reader = new Utf8JsonReader(page.Content[index.Places[token]..]);
        if (First(page, index, token) != '[' || !JsonDocument.TryParseValue(ref reader, out var links))
            throw new PageException($"this should be an array of links, at byte {index.Places[token] + 1}");
        using (links)
        {
            foreach (var link in links.RootElement.EnumerateArray().Where(link => link.ValueKind == JsonValueKind.Object))
            {
                if (link.TryGetProperty("rel", out var relation)
                    && Is(relation, choice.Relation)
                    && link.TryGetProperty(choice.Address, out var address)
                    && address.ValueKind == JsonValueKind.String)
                    return address.GetString() is { Length: > 0 } found ? found : null;
            }
        }

        return null;
    }

    // One relation, several parted by spaces, or an array of them.
    private static bool Is(JsonElement relation, string wanted) => relation.ValueKind switch
    {
        JsonValueKind.String => relation.GetString()!.Split(' ').Contains(wanted, StringComparer.OrdinalIgnoreCase),
        JsonValueKind.Array => relation.EnumerateArray().Any(one => Is(one, wanted)),
        _ => false,
    };

    /// <summary>Whether more follows: what stands at the token of <c>more:</c>.</summary>
    /// <exception cref="PageException">It is neither what the job says nor true, false, 1 or 0.</exception>
    public static bool Flag(PageBuffer page, TokenIndex index, int token, Jobs.Paging paging)
    {
        var text = First(page, index, token) == '"' ? PageWords.Unescape(Inside(page, index, token)) : Scalar(page, index, token);
        if (paging.MoreIs is { } says)
            return text == says;
        return text switch
        {
            "true" or "1" => true,
            "false" or "0" or "null" or "" => false,
            _ =>
                throw new PageException(
                    $"more: {paging.More!.Text} is '{Secrets.OneLine.Of(text)}', but only true, false, 1 and 0 are understood by default; write more: {{ at: {paging.More.Text}, is: VALUE }} with the value that means yes"),
        };
    }

    /// <summary>The whole number at a token; null for anything else.</summary>
    public static long? Number(PageBuffer page, TokenIndex index, int token) =>
        token >= 0 && long.TryParse(
            First(page, index, token) == '"' ? Text(page, index, token) : Scalar(page, index, token),
            NumberStyles.None,
            CultureInfo.InvariantCulture,
            out var number)
            ? number
            : null;

    private static string Scalar(PageBuffer page, TokenIndex index, int token)
    {
        if (First(page, index, token) is (byte)'{' or (byte)'[')
            throw new PageException($"the next page's link or cursor is neither text nor number, at byte {index.Places[token] + 1}");
        return Encoding.UTF8.GetString(page.Content[index.Places[token]..index.Places[token + 1]]).TrimEnd();
    }

    /// <summary>What stands between the quotes of the string at a token.</summary>
    public static ReadOnlySpan<byte> Inside(PageBuffer page, TokenIndex index, int token)
    {
        var start = index.Places[token] + 1;
        var end = start;
        while (page.Content[end] != '"')
            end += page.Content[end] == '\\' ? 2 : 1;
        return page.Content[start..end];
    }

    private static byte First(PageBuffer page, TokenIndex index, int token) => page.Padded[index.Places[token]];
}
