using System.Globalization;

namespace Cursiva.Core.Tables;

/// <summary>
/// Texts that JSON can write and that are not text (RFC 8259, section 8.2): half of a surrogate pair stands alone, as in
/// <c>"\ud83d"</c>.
/// </summary>
internal static class OddText
{
    private const int EscapeLength = 6;

    /// <summary>The JSON string whose text has the escape of each half that stands alone, and everything else as it was.</summary>
    /// <param name="quoted">A JSON string whose grammar was checked, with its quotes.</param>
    public static byte[] Readable(ReadOnlySpan<byte> quoted)
    {
        var readable = new List<byte>(quoted.Length + 8);
        for (var at = 0; at < quoted.Length;)
        {
            if (quoted[at] != '\\')
            {
                readable.Add(quoted[at++]);
                continue;
            }

            var length = LengthOf(quoted, at, out var isHalf);
            if (isHalf)
                readable.Add((byte)'\\');
            readable.AddRange(quoted.Slice(at, length));
            at += length;
        }

        return [.. readable];
    }

    // Of the escape that begins here, a whole pair counting as one.
    private static int LengthOf(ReadOnlySpan<byte> quoted, int at, out bool isHalf)
    {
        isHalf = false;
        if (Unit(quoted, at) is not { } first)
            return 2;
        if (!char.IsSurrogate(first))
            return EscapeLength;
        if (char.IsHighSurrogate(first) && Unit(quoted, at + EscapeLength) is { } second && char.IsLowSurrogate(second))
            return EscapeLength * 2;
        isHalf = true;
        return EscapeLength;
    }

    private static char? Unit(ReadOnlySpan<byte> quoted, int at) =>
        at + EscapeLength < quoted.Length && quoted[at] == '\\' && quoted[at + 1] == 'u'
            ? (char)ushort.Parse(quoted.Slice(at + 2, 4), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture)
            : null;
}
