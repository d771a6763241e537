using System.Text;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// Writes values so that a spreadsheet which opens a CSV file by a double click shows them as they are: it would read <c>0012</c>
/// as 12, round a number of 19 digits, and carry out a text that begins with <c>=</c>.
/// </summary>
internal static class SpreadsheetText
{
    /// <summary>Most digits that a spreadsheet's numbers keep.</summary>
    public const int MostDigits = 15;

    /// <summary>What to write in place of a value; null for the value as it is.</summary>
    /// <param name="form">What its column has.</param>
    public static byte[]? Guard(ReadOnlySpan<byte> value, ValueForm form)
    {
        if (value.Length == 0 || form is ValueForm.Date or ValueForm.Boolean)
            return null;
        if (form is ValueForm.Whole or ValueForm.Decimal or ValueForm.Float)
            return Digits(value) > MostDigits ? AsText(value) : null;
        if (WouldBeRead(value))
            return AsText(value);

        // What could be carried out gets a mark that makes it words.
        return value[0] is (byte)'=' or (byte)'+' or (byte)'-' or (byte)'@' or (byte)'\t' or (byte)'\r' ? [(byte)'\'', .. value] : null;
    }

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

    private static byte[] AsText(ReadOnlySpan<byte> value) => [.. "=\""u8, .. Encoding.UTF8.GetBytes(Encoding.UTF8.GetString(value).Replace("\"", "\"\"")), (byte)'"'];
}
