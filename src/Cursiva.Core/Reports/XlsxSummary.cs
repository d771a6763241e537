using System.Globalization;
using System.Text;

namespace Cursiva.Core.Reports;

/// <summary>The sheet that says what the workbook is: from what it was made, figures, words and warnings.</summary>
internal sealed class XlsxSummary
{
    private const int Columns = 4;
    private const int LettersOfLine = 110;
    private const int LineHeight = 15;

    private readonly List<string> _rows = [];
    private readonly List<int> _wide = [];

    public bool HasFigures { get; private set; }

    public void Title(string title) => Add([Cell(0, title, XlsxStyles.Title)], 22);

    /// <summary>A paragraph over the whole width. Its height is set, since not every program finds it out.</summary>
    public void Words(string words)
    {
        var cell = Cell(0, words, XlsxStyles.Wrapped);
        Add([cell], LineHeight * ((words.Length / LettersOfLine) + 1));
        _wide.Add(_rows.Count);
    }

    public void Blank() => Add([]);

    /// <param name="change">What has changed since the last run, in words.</param>
    public void Figure(string title, string? value, bool isNumber, string? unit, string change)
    {
        HasFigures = true;
        var number = isNumber && value is not null && SpreadsheetText.Digits(Encoding.UTF8.GetBytes(value)) <= SpreadsheetText.MostDigits;
        Add([
            Cell(0, title, XlsxStyles.Wrapped),
            number ? $"<c r=\"B{_rows.Count + 1}\"><v>{value}</v></c>" : Cell(1, value ?? "none", XlsxStyles.Text),
            Cell(2, unit ?? "", XlsxStyles.Wrapped),
            Cell(3, change, XlsxStyles.Wrapped)]);
    }

    public byte[] Write() => Encoding.UTF8.GetBytes($"""
        <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
        <worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetPr><pageSetUpPr fitToPage="1"/></sheetPr><sheetViews><sheetView showGridLines="0" workbookViewId="0"/></sheetViews><sheetFormatPr defaultRowHeight="15"/><cols><col min="1" max="1" width="42" customWidth="1"/><col min="2" max="2" width="16" customWidth="1"/><col min="3" max="3" width="18" customWidth="1"/><col min="4" max="4" width="40" customWidth="1"/></cols><sheetData>{string.Concat(_rows)}</sheetData>{Merged()}<pageSetup orientation="landscape" fitToHeight="0"/></worksheet>
        """);

    private string Merged() =>
        _wide.Count == 0
            ? ""
            : $"<mergeCells count=\"{_wide.Count}\">{string.Concat(_wide.Select(row => $"<mergeCell ref=\"A{row}:{XlsxSheet.Letters(Columns - 1)}{row}\"/>"))}</mergeCells>";

    private void Add(IReadOnlyList<string> cells, int height = LineHeight) =>
        _rows.Add(
            string.Create(
                CultureInfo.InvariantCulture,
                $"<row r=\"{_rows.Count + 1}\" ht=\"{height}\" customHeight=\"1\">{string.Concat(cells)}</row>"));

    private string Cell(int column, string text, int style) =>
        $"<c r=\"{XlsxSheet.Letters(column)}{_rows.Count + 1}\" s=\"{style}\" t=\"inlineStr\"><is><t xml:space=\"preserve\">{XlsxText.Of(text)}</t></is></c>";
}
