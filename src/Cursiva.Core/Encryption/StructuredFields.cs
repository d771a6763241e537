using System.Globalization;
using System.Text;

namespace Cursiva.Core.Encryption;

/// <summary>The parts of Structured Field Values (RFC 9651) that signatures of HTTP messages are written in.</summary>
internal static class StructuredFields
{
    /// <summary>The members of a dictionary: each label with its value as it is written, parameters included.</summary>
    /// <exception cref="PayloadException">It is not a dictionary.</exception>
    public static IReadOnlyDictionary<string, string> Dictionary(string text)
    {
        var members = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var member in Split(text, ','))
        {
            var equals = member.IndexOf('=', StringComparison.Ordinal);
            if (equals <= 0)
                throw new PayloadException($"'{member}' is not a member of a dictionary (RFC 9651 section 3.2)");
            members[member[..equals].Trim()] = member[(equals + 1)..].Trim();
        }

        return members;
    }

    /// <summary>The items of an inner list, each with its parameters as they are written, and what follows the list.</summary>
    /// <exception cref="PayloadException">It is not an inner list.</exception>
    public static (IReadOnlyList<string> Items, string Parameters) InnerList(string text)
    {
        if (!text.StartsWith('('))
            throw new PayloadException("the covered components are not a list in parentheses (RFC 9421 section 4.1)");
        var end = EndOfList(text);
        return (Split(text[1..end], ' '), text[(end + 1)..]);
    }

    /// <summary>The parameters behind an item: strings without quotes, anything else as it is written; true without a value.</summary>
    public static IReadOnlyDictionary<string, string> Parameters(string text)
    {
        var found = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var parameter in Split(text, ';'))
        {
            var equals = parameter.IndexOf('=', StringComparison.Ordinal);
            found[(equals < 0 ? parameter : parameter[..equals]).Trim()] = equals < 0 ? "?1" : Unquoted(parameter[(equals + 1)..].Trim());
        }

        return found;
    }

    /// <summary>An item without its parameters, and these.</summary>
    public static (string Name, string Parameters) Item(string text)
    {
        var end = text.StartsWith('"') ? EndOfString(text, 0) + 1 : text.IndexOf(
            ';', StringComparison.Ordinal) is >= 0 and var at ? at : text.Length;
        return (Unquoted(text[..end]), text[end..]);
    }

    /// <summary>The bytes of a byte sequence.</summary>
    /// <exception cref="PayloadException">It is none.</exception>
    public static byte[] Bytes(string text)
    {
        var (value, _) = Item(text);
        return value is [':', .. var inner, ':'] && Base64.TryAny(inner) is { } bytes
            ? bytes
            : throw new PayloadException("a value is not a byte sequence between colons (RFC 9651 section 3.3.5)");
    }

    /// <summary>A string in quotes.</summary>
    public static string Quoted(string text) => "\"" + text.Replace("\\", "\\\\").Replace("\"", "\\\"") + "\"";

    private static string Unquoted(string text)
    {
        if (text is not ['"', .., '"'])
            return text;
        var plain = new StringBuilder();
        for (var i = 1; i < text.Length - 1; i++)
            plain.Append(text[i] == '\\' ? text[++i] : text[i]);
        return plain.ToString();
    }

    private static int EndOfString(string text, int start)
    {
        for (var i = start + 1; i < text.Length; i++)
        {
            if (text[i] == '\\')
                i++;
            else if (text[i] == '"')
                return i;
        }

        throw new PayloadException("a string has no end (RFC 9651 section 3.3.3)");
    }

    private static int EndOfList(string text)
    {
        for (var i = 1; i < text.Length; i++)
        {
            if (text[i] == '"')
                i = EndOfString(text, i);
            else if (text[i] == ')')
                return i;
        }

        throw new PayloadException("a list has no end (RFC 9651 section 3.1.1)");
    }

    // Separators inside strings, lists and byte sequences are none.
    private static List<string> Split(string text, char separator)
    {
        var (parts, start) = (new List<string>(), 0);
        for (var i = 0; i <= text.Length; i++)
        {
            if (i == text.Length || text[i] == separator)
            {
                if (text[start..i].Trim() is { Length: > 0 } part)
                    parts.Add(part);
                start = i + 1;
            }
            else if (text[i] == '"')
            {
                i = EndOfString(text, i);
            }
            else if (text[i] == '(')
            {
                i += EndOfList(text[i..]);
            }
        }

        return parts;
    }

    /// <summary>Whole seconds since 1970.</summary>
    public static string Seconds(DateTimeOffset time) => time.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture);
}
