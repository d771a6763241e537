using System.Text;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// Writes values so that a spreadsheet which opens a CSV file by a double-click shows them as they are: it would read <c>0012</c>
/// as 12, round a number of 19 digits, and carry out a text that begins with <c>=</c>.
/// </summary>
internal static class SpreadsheetText
{
    /// <summary>Most digits that a spreadsheet's numbers keep.</summary>
    public const int MostDigits = 15;

    /// <summary>What to write in place of a value; null for the value as it is.</summary>
    /// <param name="form">What its column has.</param>
    /// <param name="delimiter">What parts our columns: inside quotes it ends no cell anywhere.</param>
    public static byte[]? Guard(ReadOnlySpan<byte> value, ValueForm form, char delimiter = ',')
    {
        if (value.Length == 0 || form is ValueForm.Date or ValueForm.Boolean)
            return null;
        if (form is ValueForm.Whole or ValueForm.Decimal or ValueForm.Float)
            return Digits(value) > MostDigits ? AsText(value) : null;
        if (WouldBeRead(value))
            return AsText(value);

        return Neutralised(value, delimiter);
    }

    // What could be carried out gets an apostrophe, which makes it words: at the beginning, and behind whatever some spreadsheet takes
    // for the end of a cell.
    private static byte[]? Neutralised(ReadOnlySpan<byte> value, char delimiter)
    {
        if (value.IndexOfAny(s_startsOrParts) < 0)
            return null;
        var text = Encoding.UTF8.GetString(value);
        StringBuilder? guarded = null;
        var (atStart, from) = (true, 0);
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            if (atStart && (IsFormula(c) || (i == 0 && c is '\t' or '\r' or '\n')))
            {
                (guarded ??= new StringBuilder()).Append(text, from, i - from).Append('\'');
                from = i;
            }

            atStart = (c is ';' or ',' or '\t' or '\r' or '\n' && c != delimiter) || (atStart && (IsBlank(c) || c is '"' or '\''));
        }

        return guarded is null ? null : Encoding.UTF8.GetBytes(guarded.Append(text, from, text.Length - from).ToString());
    }

    // Input methods write the wide forms, and spreadsheets read them as the narrow ones.
    private static bool IsFormula(char c) =>
        c is '=' or '+' or '-' or '@' or '\uFF1D' or '\uFF0B' or '\uFF0D' or '\uFF20' or '\uFE66' or '\uFE62' or '\uFE63' or '\uFE6B' or '\u2212';

    private static bool IsBlank(char c) =>
        char.IsWhiteSpace(c)
            || char.GetUnicodeCategory(c) is System.Globalization.UnicodeCategory.Format or System.Globalization.UnicodeCategory.Control;

    // The first bytes of all that, and of what it may stand behind.
    private static readonly System.Buffers.SearchValues<byte> s_startsOrParts = System.Buffers.SearchValues.Create(
        [.. "=+-@\t\r\n"u8, 0xEF, 0xE2]);

    /// <summary>The digits of a number that count.</summary>
    public static int Digits(ReadOnlySpan<byte> number)
    {
        var (digits, leading) = (0, true);
        foreach (var c in number)
        {
            if (c is (byte)'e' or (byte)'E')
                break;
            if (!char.IsAsciiDigit((char)c))
                continue;
            leading &= c == '0';
            if (!leading)
                digits++;
        }

        return digits;
    }

    // Text that looks like a number, a date or a time would be turned into one.
    private static bool WouldBeRead(ReadOnlySpan<byte> text)
    {
        if (text.Length > 40)
            return false;
        var digits = 0;
        foreach (var c in text)
        {
            if (char.IsAsciiDigit((char)c))
                digits++;
            else if (c is not ((byte)'.' or (byte)',' or (byte)'-' or (byte)'+' or (byte)'/' or (byte)':' or (byte)' ' or (byte)'e' or (byte)'E' or (byte)'%'))
                return false;
        }

        return digits > 0;
    }

    private static byte[] AsText(ReadOnlySpan<byte> value) =>
        [.. "=\""u8, .. Encoding.UTF8.GetBytes(Encoding.UTF8.GetString(value).Replace("\"", "\"\"")), (byte)'"'];
}
