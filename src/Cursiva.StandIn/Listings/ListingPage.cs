using System.Buffers;
using System.Buffers.Text;
using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;

namespace Cursiva.StandIn.Listings;

/// <summary>One page of a listing: its rows, the link and the cursor to the next page, and the total.</summary>
public static class ListingPage
{
    private static readonly JsonWriterOptions s_compact = new()
    {
        SkipValidation = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };
    private static readonly JsonWriterOptions s_pretty = new() { Indented = true };

    /// <summary>Writes the page that starts at row <paramref name="first"/>.</summary>
    /// <param name="nextLink">Makes the link to the page that a cursor names.</param>
    /// <returns>The number of rows in the page.</returns>
    public static int Write(IBufferWriter<byte> output, IListing listing, int first, int size, bool pretty, Func<string, string> nextLink)
    {
        var end = Math.Min(listing.Count, first + size);
        var cursor = end < listing.Count ? CursorFor(end) : null;
        using var writer = new Utf8JsonWriter(output, pretty ? s_pretty : s_compact);
        writer.WriteStartObject();
        writer.WriteStartArray("items");
        for (var row = first; row < end; row++)
            listing.Write(writer, row);
        writer.WriteEndArray();
        writer.WriteStartObject("page");
        writer.WriteNumber("total", listing.Count);
        writer.WriteString("cursor", cursor);
        writer.WriteEndObject();
        writer.WriteStartObject("links");
        writer.WriteString("next", cursor is null ? null : nextLink(cursor));
        writer.WriteEndObject();
        writer.WriteEndObject();
        return Math.Max(0, end - first);
    }

    /// <summary>The cursor of the page that starts at the row; opaque to clients.</summary>
    public static string CursorFor(int first) =>
        Base64Url.EncodeToString(Encoding.ASCII.GetBytes("row:" + first.ToString(CultureInfo.InvariantCulture)));

    /// <summary>The row that a cursor stands for, or null when it is none of ours.</summary>
    public static int? RowOf(string cursor)
    {
        try
        {
            var text = Encoding.ASCII.GetString(Base64Url.DecodeFromChars(cursor));
            return text.StartsWith("row:", StringComparison.Ordinal) && int.TryParse(
                text[4..], NumberStyles.None, CultureInfo.InvariantCulture, out var row)
                ? row
                : null;
        }
        catch (FormatException)
        {
            return null;
        }
    }
}
