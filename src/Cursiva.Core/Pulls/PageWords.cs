using System.Text;
using System.Text.Json;
using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>Texts in pages, and what a page has, for messages.</summary>
internal static class PageWords
{
    /// <summary>The text of a string, given without its quotes.</summary>
    public static string Unescape(ReadOnlySpan<byte> inside)
    {
        var quoted = new byte[inside.Length + 2];
        quoted[0] = quoted[^1] = (byte)'"';
        inside.CopyTo(quoted.AsSpan(1));
        var reader = new Utf8JsonReader(quoted);
        reader.Read();
        return reader.GetString()!;
    }

    /// <summary>For a message: what a page has instead of what was looked for.</summary>
    public static string TopLevel(PageBuffer page)
    {
        var first = page.Content.TrimStart(" \t\r\n"u8);
        if (first.IsEmpty || first[0] != '{')
            return !first.IsEmpty && first[0] == '['
                ? "; the page is an array: perhaps rows should be empty"
                : "; the page is a single value";
        var reader = new Utf8JsonReader(page.Content);
        var names = new List<string>();
        while (reader.Read() && names.Count < 12)
        {
            if (reader.TokenType == JsonTokenType.PropertyName && reader.CurrentDepth == 1)
                names.Add("/" + reader.GetString());
        }

        return names.Count == 0 ? "; the page is an empty object" : $"; the page has {string.Join(", ", names)}";
    }

    /// <summary>Blanks a byte order mark.</summary>
    public static void SkipByteOrderMark(PageBuffer page)
    {
        if (page.Content is [0xEF, 0xBB, 0xBF, ..])
            page.Content[..3].Fill((byte)' ');
    }

    /// <summary>The place of the first byte that is not UTF-8.</summary>
    public static int FirstInvalid(ReadOnlySpan<byte> bytes)
    {
        var place = 0;
        while (place < bytes.Length && Rune.DecodeFromUtf8(bytes[place..], out _, out var length) == System.Buffers.OperationStatus.Done)
            place += length;
        return place;
    }
}
