using System.Globalization;

namespace Cursiva.Core.Reports;

/// <summary>The charts of a workbook, one a sheet, and what ties them to their sheets (ECMA-376, DrawingML).</summary>
internal sealed class XlsxCharts
{
    /// <summary>What says, at the end of a sheet, that a chart stands on it.</summary>
    public const string OnSheet = "<drawing r:id=\"rId1\"/>";

    private const string Relations = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";

    // In English Metric Units, 9,525 a pixel.
    private const int Width = 760 * 9525;
    private const int Height = 400 * 9525;
    private const int HeightOfBar = 24 * 9525;

    private readonly List<(int Sheet, int Column, string Title, int Labels, XlsxChart Chart)> _charts = [];

    /// <param name="sheet">The number of the sheet's file.</param>
    /// <param name="columns">Columns of the sheet that are taken; the chart stands behind them.</param>
    public void Add(int sheet, int columns, string title, int bars, XlsxChart chart) =>
        _charts.Add((sheet, columns + 1, title, bars, chart));

    /// <summary>The parts of the workbook's package: names and contents.</summary>
    public IEnumerable<(string Name, string Text)> Parts()
    {
        foreach (var (place, (sheet, column, title, bars, chart)) in _charts.Index())
        {
            var number = place + 1;
            yield return ($"xl/worksheets/_rels/sheet{sheet}.xml.rels", Relation("drawing", $"../drawings/drawing{number}.xml"));
            yield return ($"xl/drawings/_rels/drawing{number}.xml.rels", Relation("chart", $"../charts/chart{number}.xml"));
            yield return ($"xl/drawings/drawing{number}.xml", Drawing(column, title, bars, number));
            yield return ($"xl/charts/chart{number}.xml", chart.Write());
        }
    }

    /// <summary>The types of those parts, for the list of the package's types.</summary>
    public string Types() => string.Concat(_charts.Select((_, place) =>
        $"<Override PartName=\"/xl/drawings/drawing{place + 1}.xml\" ContentType=\"application/vnd.openxmlformats-officedocument.drawing+xml\"/><Override PartName=\"/xl/charts/chart{place + 1}.xml\" ContentType=\"application/vnd.openxmlformats-officedocument.drawingml.chart+xml\"/>"));

    private static string Relation(string kind, string target) => $"""
        <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
        <Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="{Relations}/{kind}" Target="{target}"/></Relationships>
        """;

    private static string Drawing(int column, string title, int bars, int number) => string.Create(CultureInfo.InvariantCulture, $"""
        <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
        <xdr:wsDr xmlns:xdr="http://schemas.openxmlformats.org/drawingml/2006/spreadsheetDrawing" xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"><xdr:oneCellAnchor><xdr:from><xdr:col>{column}</xdr:col><xdr:colOff>0</xdr:colOff><xdr:row>1</xdr:row><xdr:rowOff>0</xdr:rowOff></xdr:from><xdr:ext cx="{Width}" cy="{Math.Max(Height, bars * HeightOfBar)}"/><xdr:graphicFrame macro=""><xdr:nvGraphicFramePr><xdr:cNvPr id="{number + 1}" name="Chart {number}" descr="{XlsxText.Of(title)}"/><xdr:cNvGraphicFramePr/></xdr:nvGraphicFramePr><xdr:xfrm><a:off x="0" y="0"/><a:ext cx="0" cy="0"/></xdr:xfrm><a:graphic><a:graphicData uri="http://schemas.openxmlformats.org/drawingml/2006/chart"><c:chart xmlns:c="http://schemas.openxmlformats.org/drawingml/2006/chart" xmlns:r="{Relations}" r:id="rId1"/></a:graphicData></a:graphic></xdr:graphicFrame><xdr:clientData/></xdr:oneCellAnchor></xdr:wsDr>
        """);
}
