using System.Buffers;
using System.Globalization;
using System.Text;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Encryption;

/// <summary>
/// Finds the encrypted text of an envelope, which is nearly all of it: strings are skipped in one go instead of byte by byte. The grammar
/// is not
/// checked, since what is found counts only if it opens.
/// </summary>
internal static class EnvelopeText
{
    private static readonly SearchValues<byte> s_ends = SearchValues.Create(",}] \r\n\t:"u8);
    private static readonly SearchValues<byte> s_marks = SearchValues.Create("\"{}[]"u8);

    /// <summary>The text at a place, without its quotes and escapes; empty where there is none.</summary>
    public static ReadOnlySpan<byte> Find(ReadOnlySpan<byte> json, JsonPointer at)
    {
        var value = json.TrimStart(" \r\n\t"u8);
        foreach (var segment in at.Segments)
        {
            value = Inside(value, segment);
            if (value.IsEmpty)
                return value;
        }

        return value is [(byte)'"', ..] ? Unquoted(value[..LengthOf(value)]) : [];
    }

    /// <summary>A string without its quotes and escapes.</summary>
    /// <param name="text">The string, quotes included.</param>
    public static ReadOnlySpan<byte> Unquoted(ReadOnlySpan<byte> text)
    {
        var inner = text.Length < 2 ? [] : text[1..^1];
        var escape = inner.IndexOf((byte)'\\');
        if (escape < 0)
            return inner;
        var (plain, length) = (GC.AllocateUninitializedArray<byte>(inner.Length), 0);
        while (escape >= 0)
        {
            inner[..escape].CopyTo(plain.AsSpan(length));
            length += escape;
            var used = 2;
            if (inner.Length > escape + 5
                && inner[escape + 1] == 'u'
                && ushort.TryParse(inner.Slice(escape + 2, 4), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var code))
            {
                used = 6;
                length += Encoding.UTF8.GetBytes([(char)code], plain.AsSpan(length));
            }
            else if (inner.Length > escape + 1)
            {
                plain[length++] = inner[escape + 1] switch
                {
                    (byte)'n' => (byte)'\n',
                    (byte)'r' => (byte)'\r',
                    (byte)'t' => (byte)'\t',
                    var other => other,
                };
            }

            inner = inner[Math.Min(inner.Length, escape + used)..];
            escape = inner.IndexOf((byte)'\\');
        }

        inner.CopyTo(plain.AsSpan(length));
        return plain.AsSpan(0, length + inner.Length);
    }

    // What stands behind a name of an object, or at an index of an array.
    private static ReadOnlySpan<byte> Inside(ReadOnlySpan<byte> value, string segment)
    {
        var isObject = value is [(byte)'{', ..];
        if (!isObject && value is not [(byte)'[', ..])
            return [];
        var wanted = Encoding.UTF8.GetBytes(segment);
        ReadOnlySpan<byte> found = [];
        var rest = value[1..];
        for (var index = 0; ; index++)
        {
            rest = rest.TrimStart(" \r\n\t,"u8);
            if (rest.IsEmpty || rest[0] is (byte)'}' or (byte)']')
                return found;
            var matches = !isObject && index.ToString(CultureInfo.InvariantCulture) == segment;
            if (isObject)
            {
                var name = LengthOf(rest);
                matches = rest[0] == '"' && Unquoted(rest[..name]).SequenceEqual(wanted);
                rest = rest[name..].TrimStart(" \r\n\t:"u8);
                if (rest.IsEmpty)
                    return [];
            }

            // Of a name that stands twice the last one counts.
            if (matches)
                found = rest;
            rest = rest[Math.Max(1, LengthOf(rest))..];
        }
    }

    // The length of a value: a string up to its quote, an object or array up to its end, anything else up to what ends it.
    private static int LengthOf(ReadOnlySpan<byte> value)
    {
        if (value[0] == '"')
            return StringLength(value);
        if (value[0] is not ((byte)'{' or (byte)'['))
            return value.IndexOfAny(s_ends) is >= 0 and var end ? end : value.Length;
        for (int at = 0, depth = 0; at < value.Length;)
        {
            var next = value[at..].IndexOfAny(s_marks);
            if (next < 0)
                break;
            at += next;
            if (value[at] == '"')
            {
                at += StringLength(value[at..]);
                continue;
            }

            depth += value[at] is (byte)'{' or (byte)'[' ? 1 : -1;
            at++;
            if (depth == 0)
                return at;
        }

        return value.Length;
    }

    private static int StringLength(ReadOnlySpan<byte> text)
    {
        for (var at = 1; at < text.Length;)
        {
            var next = text[at..].IndexOfAny((byte)'"', (byte)'\\');
            if (next < 0)
                break;
            at += next;
            if (text[at] == '"')
                return at + 1;
            at += 2;
        }

        return text.Length;
    }
}
