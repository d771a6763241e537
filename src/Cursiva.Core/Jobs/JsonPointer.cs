using System.Globalization;
using System.Text.Json;

namespace Cursiva.Core.Jobs;

/// <summary>A place inside JSON (RFC 6901).</summary>
public sealed class JsonPointer
{
    /// <summary>What a JSON Pointer has to look like, for messages.</summary>
    public const string Right = "write a JSON Pointer: empty for the whole, or /name/name with ~1 for a slash and ~0 for a tilde";

    private JsonPointer(string text, IReadOnlyList<string> segments)
    {
        Text = text;
        Segments = segments;
    }

    /// <summary>The pointer as it was written.</summary>
    public string Text { get; }

    /// <summary>The names and indexes on the way, unescaped; empty for the whole.</summary>
    public IReadOnlyList<string> Segments { get; }

    /// <summary>Reads a pointer; null when it starts without a slash or has a tilde that escapes nothing.</summary>
    public static JsonPointer? TryParse(string text)
    {
        if (text.Length == 0)
            return new JsonPointer(text, []);
        if (text[0] != '/')
            return null;

        for (var i = text.IndexOf('~', StringComparison.Ordinal); i >= 0; i = text.IndexOf('~', i + 1))
        {
            if (i + 1 == text.Length || text[i + 1] is not ('0' or '1'))
                return null;
        }

        // ~1 first: "~01" is a tilde and a 1, never a slash (RFC 6901 section 4).
        return new JsonPointer(text, [.. text[1..].Split('/').Select(part => part.Replace("~1", "/").Replace("~0", "~"))]);
    }

    /// <summary>The pointer to a field at the top of a row.</summary>
    public static JsonPointer ToField(string name) => ToFields([name]);

    /// <summary>The pointer to a field inside fields.</summary>
    public static JsonPointer ToFields(IReadOnlyList<string> names) =>
        new(string.Concat(names.Select(name => "/" + name.Replace("~", "~0").Replace("/", "~1"))), names);

    /// <summary>What stands at this place; null when there is nothing.</summary>
    public JsonElement? Find(JsonElement root)
    {
        var at = root;
        foreach (var segment in Segments)
        {
            if (at.ValueKind == JsonValueKind.Object && at.TryGetProperty(segment, out var inside))
                at = inside;
            else if (at.ValueKind == JsonValueKind.Array
                && int.TryParse(segment, NumberStyles.None, CultureInfo.InvariantCulture, out var index)
                && index < at.GetArrayLength())
                at = at[index];
            else
                return null;
        }

        return at;
    }

    /// <inheritdoc/>
    public override string ToString() => Text;
}
