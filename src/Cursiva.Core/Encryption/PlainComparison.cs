using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.Core.Encryption;

/// <summary>
/// Where one's own plain text begins to differ: byte order mark, line breaks, white space, escapes, order of members, values.
/// </summary>
internal static class PlainComparison
{
    /// <summary>What differs; null where nothing does. Values are not repeated: they may be secrets.</summary>
    public static string? Difference(byte[] own, byte[] right)
    {
        if (own.AsSpan().SequenceEqual(right))
            return null;
        if (own.AsSpan().StartsWith(Encoding.UTF8.Preamble))
            return "it begins with a byte order mark (EF BB BF), which is not JSON: write UTF-8 without it";
        if (own.Length > 1 && own[0] is 0xFF or 0xFE or 0 || (own.Length > 3 && own[1] == 0))
            return "it is UTF-16, not UTF-8";
        if (Base64.TryAny(own) is { } decoded && decoded.AsSpan().SequenceEqual(right))
            return "it was encoded as base64 before it was encrypted: do not do that, or set base64-first: true if the other side expects it";
        if (Base64.TryAny(right) is { } bare && bare.AsSpan().SequenceEqual(own))
            return "it was not encoded as base64 before it was encrypted, as base64-first: says";
        var (mine, wanted) = (Encoding.UTF8.GetString(own), Encoding.UTF8.GetString(right));
        if (mine.TrimEnd('\r', '\n', ' ', '\0') == wanted.TrimEnd('\r', '\n', ' ', '\0'))
            return $"it ends with {Ends(mine)}, instead of {Ends(wanted)}: often an editor's or echo's line break";
        if (mine.Replace("\r\n", "\n") == wanted.Replace("\r\n", "\n"))
            return mine.Contains('\r', StringComparison.Ordinal)
                ? "its line breaks are CR LF instead of LF"
                : "its line breaks are LF instead of CR LF";
        return OfJson(mine, wanted)
            ?? $"it differs from byte {Same(own, right) + 1:N0} on: {own.Length:N0} bytes instead of {right.Length:N0}";
    }

    private static string? OfJson(string mine, string wanted)
    {
        try
        {
            var (own, right) = (JsonNode.Parse(mine), JsonNode.Parse(wanted));
            if (JsonNode.DeepEquals(own, right))
            {
                var place = Order(own, right, "");
                return place is not null ? $"the members {place} are in another order, so a digest or signature over the text differs"
                    : Spaceless(mine) == Spaceless(wanted) ? "it has other white space between its members: JSON for people, or the other way round"
                    : "its texts or numbers are escaped or written differently (\\u00e9 for é, \\/ for /, 1.0 for 1), so a digest or signature over the text differs";
            }

            return $"{Place(own, right, "")}";
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private static string? Order(JsonNode? own, JsonNode? right, string at) => (own, right) switch
    {
        (JsonObject mine, JsonObject wanted) when !mine.Select(member => member.Key).SequenceEqual(
            wanted.Select(member => member.Key)) => $"of {(at.Length == 0 ? "the top" : at)}",
        (JsonObject mine, JsonObject wanted) =>
            mine.Select(member => Order(member.Value, wanted[member.Key], $"{at}/{member.Key}")).FirstOrDefault(
            found => found is not null),
        (JsonArray mine, JsonArray wanted) => mine.Select((item, index) => Order(item, wanted[index], $"{at}/{index}")).FirstOrDefault(
            found => found is not null),
        _ => null,
    };

    private static string Place(JsonNode? own, JsonNode? right, string at)
    {
        if (own is JsonObject mine && right is JsonObject wanted)
        {
            if (wanted.FirstOrDefault(member => !mine.ContainsKey(member.Key)) is { Key: { } missing })
                return $"it has no {at}/{missing}";
            if (mine.FirstOrDefault(member => !wanted.ContainsKey(member.Key)) is { Key: { } extra })
                return $"it has {at}/{extra}, which should not be there";
            return mine.Where(member => !JsonNode.DeepEquals(member.Value, wanted[member.Key]))
                .Select(member => Place(member.Value, wanted[member.Key], $"{at}/{member.Key}"))
                .First();
        }

        if (own is JsonArray list && right is JsonArray other && list.Count == other.Count)
            return Enumerable.Range(0, list.Count)
                .Where(index => !JsonNode.DeepEquals(list[index], other[index]))
                .Select(index => Place(list[index], other[index], $"{at}/{index}"))
                .First();
        var (kind, wantedKind) = (Kind(own), Kind(right));
        return $"{(at.Length == 0 ? "it" : at)} is {(kind == wantedKind ? "another value" : $"{kind}, where the right one has {wantedKind}")}";
    }

    private static string Kind(JsonNode? node) => node is null ? "null" : node.GetValueKind() switch
    {
        JsonValueKind.Object => "an object",
        JsonValueKind.Array => "an array",
        JsonValueKind.String => "a text",
        JsonValueKind.Number => "a number",
        _ => "true or false",
    };

    private static string Ends(string text) =>
        text.EndsWith("\r\n", StringComparison.Ordinal)
            ? "CR LF"
            : text.EndsWith('\n') ? "a line break" : text.EndsWith('\0') ? "zero bytes" : text.EndsWith(
            ' ') ? "spaces" : "no line break";

    private static string Spaceless(string text) => string.Concat(text.Where(c => !char.IsWhiteSpace(c)));

    private static int Same(byte[] own, byte[] right) => own.AsSpan().CommonPrefixLength(right);
}
