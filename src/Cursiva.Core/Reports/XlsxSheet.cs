using System.Globalization;
using System.Text;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// One sheet of rows, streamed: a frozen bold head with a filter, and widths told by its first rows, which are held back until they
/// are known.
/// </summary>
internal sealed class XlsxSheet : IDisposable
{
    private const int RowsMeasured = 200;
    private const int Widest = 60;
    private const int Narrowest = 8;

    private readonly Stream _entry;
    private readonly BufferedOutput _output;
    private readonly IReadOnlyList<ResultColumn> _columns;
    private readonly XlsxCell[] _cells;
    private readonly byte[][] _letters;
    private readonly int[] _widths;
    private MemoryStream? _held = new();
    private BufferedOutput _rows;

    public XlsxSheet(Stream entry, IReadOnlyList<ResultColumn> columns, XlsxStyles styles, ShownValue shown)
    {
        _entry = entry;
        _output = new BufferedOutput(entry);
        _rows = new BufferedOutput(_held);
        _columns = columns;
        _cells = [.. columns.Select(column => new XlsxCell(column, styles.Of(column), shown))];
        _letters = [.. columns.Select((_, place) => Encoding.ASCII.GetBytes(Letters(place)))];
        _widths = [.. columns.Select(column => Math.Clamp(column.Name.Length + 4, Narrowest, Widest))];
        Head();
    }

    /// <summary>Rows so far, the head aside.</summary>
    public int Rows { get; private set; }

    public void Row(TextRows rows, long number)
    {
        Rows++;
        Span<byte> reference = stackalloc byte[12];
        (Rows + 1).TryFormat(reference, out var digits, provider: CultureInfo.InvariantCulture);
        var line = reference[..digits];
        _rows.Write("<row r=\""u8);
        _rows.Write(line);
        _rows.Write("\">"u8);
        for (var column = 0; column < _cells.Length; column++)
        {
            if (rows.IsNull(column))
                continue;
            var value = rows.Value(column);
            _rows.Write("<c r=\""u8);
            _rows.Write(_letters[column]);
            _rows.Write(line);
            _cells[column].Write(_rows, value, number);
            if (_held is not null)
                _widths[column] = Math.Max(
                    _widths[column],
                    Math.Min(Widest, (_columns[column].Form == ValueForm.Date ? 10 : Encoding.UTF8.GetCharCount(value)) + 2));
        }

        _rows.Write("</row>"u8);
        if (Rows == RowsMeasured)
            Release();
    }

    /// <summary>What a reader should know of texts that were longer than a cell.</summary>
    public IEnumerable<string> Notes => _cells.Zip(_columns).Where(pair => pair.First.Cut.Count > 0).Select(pair =>
        $"Note: column '{pair.Second.Name}' has texts longer than the {XlsxCell.LongestText:N0} characters of a cell ({pair.First.Cut.Count:N0}, the first in row {pair.First.Cut.Row:N0}); they are cut, and other formats keep them.");

    /// <summary>Ends the sheet.</summary>
    /// <param name="hasChart">Whether a chart stands on it.</param>
    public void End(bool hasChart)
    {
        Release();
        _output.Write("</sheetData>"u8);
        if (_columns.Count > 0)
            Text($"<autoFilter ref=\"A1:{Letters(_columns.Count - 1)}{Rows + 1}\"/>");
        Text("<pageMargins left=\"0.5\" right=\"0.5\" top=\"0.75\" bottom=\"0.75\" header=\"0.3\" footer=\"0.3\"/><pageSetup orientation=\"landscape\" fitToHeight=\"0\"/>");
        Text(hasChart ? $"{XlsxCharts.OnSheet}</worksheet>" : "</worksheet>");
        _output.Flush();
    }

    public void Dispose()
    {
        _held?.Dispose();
        _entry.Dispose();
    }

    /// <summary>A column's name: A, B, ... Z, AA.</summary>
    public static string Letters(int place)
    {
        var letters = "";
        for (var left = place + 1; left > 0; left = (left - 1) / 26)
            letters = (char)('A' + ((left - 1) % 26)) + letters;
        return letters;
    }

    private void Head()
    {
        _rows.Write("<row r=\"1\">"u8);
        for (var column = 0; column < _columns.Count; column++)
        {
            _rows.Write("<c r=\""u8);
            _rows.Write(_letters[column]);
            _rows.Write(
                Encoding.ASCII.GetBytes(
                    $"1\" s=\"{(_columns[column].IsNumber ? XlsxStyles.NumberHead : XlsxStyles.Head)}\" t=\"inlineStr\"><is><t xml:space=\"preserve\">"));
            XlsxText.Write(_rows, Encoding.UTF8.GetBytes(_columns[column].Name));
            _rows.Write("</t></is></c>"u8);
        }

        _rows.Write("</row>"u8);
    }

    // The widths stand before the rows in the file.
    private void Release()
    {
        if (_held is null)
            return;
        _rows.Flush();
        Text("""<?xml version="1.0" encoding="UTF-8" standalone="yes"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheetPr><pageSetUpPr fitToPage="1"/></sheetPr><sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/><selection pane="bottomLeft" activeCell="A2" sqref="A2"/></sheetView></sheetViews><sheetFormatPr defaultRowHeight="15"/>""");
        if (_columns.Count > 0)
            Text($"<cols>{string.Concat(_widths.Select((width, place) => $"<col min=\"{place + 1}\" max=\"{place + 1}\" width=\"{width}\" customWidth=\"1\"/>"))}</cols>");
        Text("<sheetData>");
        _output.Write(_held.GetBuffer().AsSpan(0, (int)_held.Length));
        _held.Dispose();
        _held = null;
        _rows = _output;
    }

    private void Text(string text) => _output.Write(Encoding.UTF8.GetBytes(text));
}
