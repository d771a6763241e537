using System.Globalization;
using System.Text;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>One column's values as cells: typed where a spreadsheet keeps them as they are, and text otherwise.</summary>
/// <param name="style">The style of typed values.</param>
internal sealed class XlsxCell(ResultColumn column, int style, ShownValue shown)
{
    /// <summary>Characters of a cell.</summary>
    public const int LongestText = 32_767;

    private static readonly DateTime s_dayZero = new(1899, 12, 30, 0, 0, 0, DateTimeKind.Utc);

    // Spreadsheets take 1900 for a leap year; from this day on all of them count alike.
    private static readonly DateTime s_firstDay = new(1900, 3, 1, 0, 0, 0, DateTimeKind.Utc);

    private readonly byte[] _space = new byte[64];
    private readonly byte[] _typed = Encoding.ASCII.GetBytes($"\" s=\"{style}\"><v>");
    private static readonly byte[] s_textCell = Encoding.ASCII.GetBytes(
        $"\" s=\"{XlsxStyles.Plain}\" t=\"inlineStr\"><is><t xml:space=\"preserve\">");
    private static readonly byte[] s_numberAsText = Encoding.ASCII.GetBytes(
        $"\" s=\"{XlsxStyles.Text}\" t=\"inlineStr\"><is><t xml:space=\"preserve\">");

    /// <summary>Texts that were longer than a cell, and the first row that has one, from 1.</summary>
    public (long Count, long Row) Cut { get; private set; }

    /// <summary>Writes what follows a cell's reference.</summary>
    /// <param name="row">The row in the part, from 1, for messages.</param>
    public void Write(BufferedOutput output, ReadOnlySpan<byte> value, long row)
    {
        value = shown.Of(value, column.Form, _space);
        switch (column.Form)
        {
            case ValueForm.Boolean:
                output.Write(value[0] == 't' ? "\" t=\"b\"><v>1</v></c>"u8 : "\" t=\"b\"><v>0</v></c>"u8);
                return;
            case ValueForm.Whole or ValueForm.Decimal when SpreadsheetText.Digits(value) <= SpreadsheetText.MostDigits:
            case ValueForm.Float when value.IndexOf((byte)'n') < 0:
                Typed(output, value);
                return;
            case ValueForm.Date when Serial(value) is { } day:
                Typed(output, Encoding.ASCII.GetBytes(day.ToString("0", CultureInfo.InvariantCulture)));
                return;
            case ValueForm.Time when Serial(value) is { } time:
                Typed(output, Encoding.ASCII.GetBytes(time.ToString("R", CultureInfo.InvariantCulture)));
                return;
            default:
                Text(output, value, row);
                return;
        }
    }

    private void Typed(BufferedOutput output, ReadOnlySpan<byte> value)
    {
        output.Write(_typed);
        output.Write(value);
        output.Write("</v></c>"u8);
    }

    private void Text(BufferedOutput output, ReadOnlySpan<byte> value, long row)
    {
        if (value.Length > LongestText && Encoding.UTF8.GetCharCount(value) > LongestText)
        {
            Cut = (Cut.Count + 1, Cut.Count == 0 ? row : Cut.Row);
            value = Encoding.UTF8.GetBytes(Shortened(Encoding.UTF8.GetString(value)));
        }

        output.Write(column.IsNumber ? s_numberAsText : s_textCell);
        XlsxText.Write(output, value);
        output.Write("</t></is></c>"u8);
    }

    private static string Shortened(string text)
    {
        var note = $" [cut: {text.Length:N0} characters]";
        var length = LongestText - note.Length;
        return text[..(char.IsHighSurrogate(text[length - 1]) ? length - 1 : length)] + note;
    }

    // Days since the spreadsheet's day zero; null where a double would change the instant.
    private static double? Serial(ReadOnlySpan<byte> iso)
    {
        Span<char> text = stackalloc char[40];
        if (iso.Length > text.Length
            || !DateTime.TryParse(
                text[..Encoding.UTF8.GetChars(iso, text)],
                CultureInfo.InvariantCulture,
                DateTimeStyles.AdjustToUniversal | DateTimeStyles.AssumeUniversal,
                out var at)
            || at < s_firstDay
            || at.Ticks % TimeSpan.TicksPerMillisecond != 0)
            return null;
        return (at - s_dayZero).TotalDays;
    }
}
