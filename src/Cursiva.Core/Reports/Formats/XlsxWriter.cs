using System.IO.Compression;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// A workbook (ECMA-376, SpreadsheetML): a sheet for each table and chart, further ones where a sheet is full, and one that says
/// what the workbook is. Rows are streamed, whatever their number.
/// </summary>
/// <param name="mostRows">Rows of a sheet, the head included; 1,048,576 in the format.</param>
internal sealed class XlsxWriter(Stream stream, Report report, ReportContext context, int mostRows = XlsxWriter.FullSheet) : IReportWriter
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(target => new XlsxWriter(target.Stream, target.Report, target.Context))
        {
            Suffix = ".xlsx",
            Holds = FormatHolds.Everything,
            MayBePacked = false,
        },
    ];

    private const int FullSheet = 1_048_576;

    private readonly ZipArchive _zip = new(stream, ZipArchiveMode.Create, leaveOpen: true);
    private readonly XlsxStyles _styles = new();
    private readonly ShownValue _shown = new(context.Zone);
    private readonly XlsxSummary _summary = NewSummary(report, context);
    private readonly List<string> _sheets = [];
    private readonly XlsxCharts _charts = new();
    private PartHead? _head;
    private XlsxSheet? _sheet;
    private ChartRows? _chart;
    private long _rows;
    private string? _figure;

    public void Begin(PartHead head)
    {
        (_head, _rows, _figure) = (head, 0, null);
        _chart = head.Part.IsChart ? new ChartRows(head, _shown) : null;
        if (head.Part.IsTable)
            _sheet = NewSheet();
    }

    public void Row(TextRows rows)
    {
        _rows++;
        _chart?.Add(rows);
        if (_sheet is null)
        {
            _figure = rows.IsNull(0) ? null : _shown.Of(rows.Value(0), _head!.Columns[0].Form);
            return;
        }

        if (_sheet.Rows + 1 == mostRows)
        {
            EndSheet(hasChart: false);
            _sheet = NewSheet();
        }

        _sheet.Row(rows, _rows);
    }

    public void EndPart()
    {
        var head = _head!;
        var data = _chart?.Data();
        EndSheet(hasChart: data is { IsAsRows: true, Labels.Count: > 0 });
        if (data is { Labels.Count: > 0 })
            Chart(data);
        if (head.Part.Kind == PartKind.Figure)
            _summary.Figure(
                head.Part.Title, _figure, head.Columns[0].IsNumber, head.Part.Unit, ReportWords.Change(_figure, head.Before, context));
        foreach (var words in head.Words)
            _summary.Words(words);
    }

    public void End()
    {
        // With figures it is what a reader wants first; beside a plain table it only says where that comes from.
        var first = report.Parts.Count > 1;
        _sheets.Insert(first ? 0 : _sheets.Count, SheetName(first ? "Summary" : "About"));
        Add($"xl/worksheets/{SheetFile(_sheets.Count)}", _summary.Write());
        var order = first ? Enumerable.Range(1, _sheets.Count - 1).Prepend(_sheets.Count) : Enumerable.Range(1, _sheets.Count);
        var numbered = order.Select((file, place) => (File: file, Name: _sheets[place])).ToList();
        foreach (var (name, text) in _charts.Parts())
            Add(name, text);
        Add("xl/styles.xml", _styles.Write());
        Add("xl/workbook.xml", $"""
            <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
            <workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets>{string.Concat(numbered.Select(sheet => $"<sheet name=\"{Escaped(sheet.Name)}\" sheetId=\"{sheet.File}\" r:id=\"rId{sheet.File}\"/>"))}</sheets></workbook>
            """);
        Add("xl/_rels/workbook.xml.rels", $"""
            <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
            <Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">{string.Concat(numbered.Select(sheet => $"<Relationship Id=\"rId{sheet.File}\" Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet\" Target=\"worksheets/{SheetFile(sheet.File)}\"/>"))}<Relationship Id="rIdStyles" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles" Target="styles.xml"/></Relationships>
            """);
        Add("_rels/.rels", """
            <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
            <Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>
            """);
        Add("[Content_Types].xml", $"""
            <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
            <Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/styles.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml"/>{string.Concat(numbered.Select(sheet => $"<Override PartName=\"/xl/worksheets/{SheetFile(sheet.File)}\" ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml\"/>"))}{_charts.Types()}</Types>
            """);
        _zip.Dispose();
    }

    public void Dispose()
    {
        _sheet?.Dispose();
        _sheet = null;
        try
        {
            _zip.Dispose();
        }
        catch (Exception error) when (error is IOException or InvalidOperationException)
        {
            // It was given up half way, for a reason that is told already.
        }
    }

    private static XlsxSummary NewSummary(Report report, ReportContext context)
    {
        var summary = new XlsxSummary();
        summary.Title(report.Title);
        summary.Words(ReportWords.MadeFrom(context));
        summary.Words($"Times are in {context.Zone.Id}.");
        foreach (var warning in ReportWords.Warnings(context))
            summary.Words("Note: " + warning);
        summary.Blank();
        return summary;
    }

    private XlsxSheet NewSheet()
    {
        _sheets.Add(SheetName(_head!.Part.Title));
        return new XlsxSheet(NewEntry($"xl/worksheets/{SheetFile(_sheets.Count)}"), _head.Columns, _styles, _shown);
    }

    // Beside the rows where they are what it shows, and otherwise beside its own values on the next sheet.
    private void Chart(ChartData data)
    {
        var part = _head!.Part;
        var columns = _head.Columns.Count;
        var places = Enumerable.Range(1, columns - 1).Where(column => _head.Columns[column].IsNumber).ToList();
        if (!data.IsAsRows)
        {
            _sheets.Add(SheetName($"{part.Title} (chart)"));
            Add($"xl/worksheets/{SheetFile(_sheets.Count)}", XlsxChartTable.Write(data, _head.Columns[0].Name));
            (columns, places) = (data.Series.Count + data.Thresholds.Count + 1, [.. Enumerable.Range(1, data.Series.Count)]);
        }

        var bars = data.Kind switch
        {
            PartKind.Bar => data.Labels.Count * data.Series.Count,
            PartKind.StackedBar => data.Labels.Count,
            _ => 0,
        };
        _charts.Add(_sheets.Count, columns, part.Title, bars, new XlsxChart(data, _sheets[^1], places, part.Title));
    }

    private void EndSheet(bool hasChart)
    {
        foreach (var note in _sheet?.Notes ?? [])
            _summary.Words(note);
        _sheet?.End(hasChart);
        _sheet?.Dispose();
        _sheet = null;
    }

    // At most 31 characters, some of them forbidden, and unique whatever the case.
    private string SheetName(string title)
    {
        var clean = new string(
            [.. title.Select(c => c is '[' or ']' or ':' or '*' or '?' or '/' or '\\' || char.IsControl(c) ? ' ' : c)]).Trim(
            ' ', '\'');
        if (clean.Length == 0 || clean.Equals("History", StringComparison.OrdinalIgnoreCase))
            clean = "Sheet";
        var name = clean[..Math.Min(31, clean.Length)];
        for (var n = 2; _sheets.Contains(name, StringComparer.OrdinalIgnoreCase); n++)
        {
            var suffix = $" ({n})";
            name = clean[..Math.Min(31 - suffix.Length, clean.Length)] + suffix;
        }

        return name;
    }

    private void Add(string name, string text) => Add(name, Encoding.UTF8.GetBytes(text));

    private void Add(string name, byte[] bytes)
    {
        using var entry = NewEntry(name);
        entry.Write(bytes);
    }

    private Stream NewEntry(string name)
    {
        var entry = _zip.CreateEntry(name, CompressionLevel.Fastest);

        // The same run gives the same bytes, whenever they are written.
        entry.LastWriteTime = new DateTimeOffset(context.StartedAt.UtcDateTime);
        return entry.Open();
    }

    private static string SheetFile(int number) => $"sheet{number}.xml";

    private static string Escaped(string name) => System.Security.SecurityElement.Escape(name);
}
