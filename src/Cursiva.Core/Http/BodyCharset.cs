using System.Net.Http.Headers;
using System.Text;

namespace Cursiva.Core.Http;

/// <summary>
/// Bodies that are not UTF-8 and say so: UTF-16 or UTF-32 by the charset of their content type, or by a byte-order mark. They become
/// UTF-8; everything else stays as it came.
/// </summary>
internal static class BodyCharset
{
    private const int LongestMark = 4;

    /// <summary>The body as UTF-8.</summary>
    /// <param name="body">Is disposed of when another one is returned.</param>
    public static PageBuffer AsUtf8(PageBuffer body, HttpContentHeaders headers)
    {
        if (Of(headers.ContentType?.CharSet, body.Content) is not { } encoding)
            return body;
        using (body)
            return PageBuffer.Of(Encoding.UTF8.GetBytes(encoding.GetString(body.Content)));
    }

    private static Encoding? Of(string? charset, ReadOnlySpan<byte> content)
    {
        var start = content[..Math.Min(LongestMark, content.Length)];
        if (start.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE, 0, 0]))
            return Encoding.UTF32;
        if (start.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]))
            return Encoding.Unicode;
        if (start.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]))
            return Encoding.BigEndianUnicode;
        return charset?.Trim('"').ToLowerInvariant() switch
        {
            // Without a mark, RFC 2781 (section 4.3) takes UTF-16 for big-endian; what begins with "{\0" is plainly not.
            "utf-16" => start is [not 0, 0, ..] ? Encoding.Unicode : Encoding.BigEndianUnicode,
            "utf-16le" => Encoding.Unicode,
            "utf-16be" => Encoding.BigEndianUnicode,
            "utf-32" or "utf-32le" => Encoding.UTF32,
            _ => null,
        };
    }
}
