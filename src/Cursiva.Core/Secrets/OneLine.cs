using System.Globalization;
using System.Text;

namespace Cursiva.Core.Secrets;

/// <summary>
/// Text from outside as one neutralised line: nothing in it steers a terminal, begins a line or turns the reading direction (promise 12).
/// </summary>
public static class OneLine
{
    /// <summary>
    /// The text with every control character (C0, DEL, C1), line break, format character (Unicode category Cf, the bidirectional ones
    /// among them) and lone surrogate written as an escape: <c>\n</c>, <c>\u001b</c>.
    /// </summary>
    public static string Of(string text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            if (!IsPlain(text, i))
                return Escape(text, i);
        }

        return text;
    }

    private static string Escape(string text, int from)
    {
        var line = new StringBuilder(text, 0, from, text.Length + 32);
        for (var i = from; i < text.Length; i++)
        {
            if (IsPlain(text, i))
            {
                line.Append(text[i]);
                continue;
            }

            line.Append(text[i] switch
            {
                '\n' => "\\n",
                '\r' => "\\r",
                '\t' => "\\t",
                var c => string.Create(CultureInfo.InvariantCulture, $"\\u{(int)c:x4}"),
            });
        }

        return line.ToString();
    }

    private static bool IsPlain(string text, int i)
    {
        var c = text[i];
        if (c is >= ' ' and < '\u007f')
            return true;
        if (char.IsSurrogate(c))
        {
            var first = char.IsLowSurrogate(c) ? i - 1 : i;
            return first >= 0
                && first + 1 < text.Length
                && char.IsSurrogatePair(text[first], text[first + 1])
                && IsPlain(CharUnicodeInfo.GetUnicodeCategory(text, first));
        }

        return IsPlain(CharUnicodeInfo.GetUnicodeCategory(c));
    }

    private static bool IsPlain(UnicodeCategory category) =>
        category is not (UnicodeCategory.Control or UnicodeCategory.Format or UnicodeCategory.LineSeparator or UnicodeCategory.ParagraphSeparator or UnicodeCategory.OtherNotAssigned or UnicodeCategory.PrivateUse);
}
