using System.Text;
using System.Text.RegularExpressions;

namespace Cursiva.Core.Encryption;

/// <summary>In which form bytes were written as a text: base64, base64url, hex, with line breaks, and the like.</summary>
internal static partial class TextForms
{
    private const int LeastOfDouble = 8;

    /// <summary>The bytes of a text that should be base64, and what is wrong with its form; no bytes where nobody can tell.</summary>
    public static (byte[]? Bytes, IReadOnlyList<string> Wrong) Read(string text)
    {
        var wrong = new List<string>();
        if (text.Length > 1 && text[0] == '"' && text[^1] == '"')
        {
            wrong.Add("it is in quotes: it was written as JSON once more");
            text = text[1..^1];
        }

        if (text.Contains('%', StringComparison.Ordinal))
        {
            wrong.Add("it is percent-encoded, as for a form or an address: + became %2B and so on");
            text = Uri.UnescapeDataString(text);
        }

        if (text.Contains('\n', StringComparison.Ordinal) || text.Contains('\r', StringComparison.Ordinal))
        {
            var lines = text.Split('\n', StringSplitOptions.RemoveEmptyEntries);
            wrong.Add($"it has line breaks{(lines.Length > 1 ? $", every {lines[0].TrimEnd('\r').Length} characters, as base64 in mails has them" : " at its end")}: write it on one line");
        }
        else if (text.Contains(' ', StringComparison.Ordinal))
        {
            wrong.Add("it has spaces: + of base64 became a space, as in a form that was not encoded");
            text = text.Replace(' ', '+');
        }

        var bare = string.Concat(text.Where(c => !char.IsWhiteSpace(c)));
        if (Hex().IsMatch(bare) && bare.Length % 2 == 0 && bare.Length >= 2 * LeastOfDouble)
        {
            wrong.Add("it is hex, not base64");
            return (Convert.FromHexString(bare), wrong);
        }

        if (bare.Contains('-', StringComparison.Ordinal) || bare.Contains('_', StringComparison.Ordinal))
            wrong.Add("it is base64url (- and _), not base64 (+ and /)");
        else if (bare.Length % 4 != 0)
            wrong.Add("its padding with = is missing");
        var bytes = Base64.TryAny(bare);
        if (bytes is null)
            wrong.Add("it is not a base64");
        else if (bytes.Length >= LeastOfDouble
            && bytes.All(b => b is > 32 and < 127)
            && Base64.TryAny(Encoding.ASCII.GetString(bytes)) is { } inner
            && bytes.Length % 4 == 0)
            return (inner, [.. wrong, "it was encoded as base64 twice"]);
        return (bytes, wrong);
    }

    [GeneratedRegex("^[0-9a-fA-F]+$")]
    private static partial Regex Hex();
}
