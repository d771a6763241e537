using System.Globalization;
using System.Text;
using System.Text.Json;

namespace Cursiva.Core.Jobs;

/// <summary>Finds one value in JSON whose grammar was checked, without building a tree.</summary>
internal static class JsonFind
{
    /// <summary>The bytes of the value at a place; empty when there is none. Of a name that stands twice the last one counts.</summary>
    public static ReadOnlySpan<byte> Raw(ReadOnlySpan<byte> json, JsonPointer at)
    {
        var found = json;
        foreach (var segment in at.Segments)
        {
            found = Inside(found, segment);
            if (found.IsEmpty)
                return found;
        }

        return found;
    }

    /// <summary>
    /// The value at a place as text: a string without its quotes, anything else as it is written; null for null and nothing.
    /// </summary>
    public static string? Text(ReadOnlySpan<byte> json, JsonPointer at) => TextOf(Raw(json, at));

    /// <summary>A value as text: a string without its quotes, anything else as it is written; null for null and nothing.</summary>
    public static string? TextOf(ReadOnlySpan<byte> raw)
    {
        if (raw.IsEmpty || raw[0] == 'n')
            return null;
        if (raw[0] != '"')
            return Encoding.UTF8.GetString(raw);
        var reader = new Utf8JsonReader(raw);
        reader.Read();
        return reader.GetString();
    }

    /// <summary>Whether a value is there and is the one that is asked for.</summary>
    /// <param name="value"><see cref="Probe.Anything"/> for any.</param>
    public static bool Holds(ReadOnlySpan<byte> json, JsonPointer at, string value) =>
        Text(json, at) is { } text && (value == Probe.Anything || text == value);

    private static ReadOnlySpan<byte> Inside(ReadOnlySpan<byte> json, string segment)
    {
        ReadOnlySpan<byte> found = [];
        var reader = new Utf8JsonReader(json);
        if (!reader.Read())
            return found;
        if (reader.TokenType == JsonTokenType.StartObject)
        {
            while (reader.Read() && reader.TokenType == JsonTokenType.PropertyName)
            {
                var matches = reader.ValueTextEquals(segment);
                reader.Read();
                var start = (int)reader.TokenStartIndex;
                reader.Skip();
                if (matches)
                    found = json[start..(int)reader.BytesConsumed];
            }
        }
        else if (reader.TokenType == JsonTokenType.StartArray
            && int.TryParse(segment, NumberStyles.None, CultureInfo.InvariantCulture, out var index))
        {
            for (var place = 0; reader.Read() && reader.TokenType != JsonTokenType.EndArray; place++)
            {
                var start = (int)reader.TokenStartIndex;
                reader.Skip();
                if (place == index)
                    return json[start..(int)reader.BytesConsumed];
            }
        }

        return found;
    }
}
