using System.Globalization;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Reports;

/// <summary>
/// A chart of a workbook (ECMA-376, DrawingML charts) that a spreadsheet draws from the cells beside it, and people can change.
/// </summary>
/// <param name="sheet">The sheet of the cells: a head, labels in the first column.</param>
/// <param name="columns">The column of each series, from 0.</param>
/// <param name="title">What stands above it.</param>
internal sealed class XlsxChart(ChartData data, string sheet, IReadOnlyList<int> columns, string title)
{
    private const int LabelAxis = 1;
    private const int ValueAxis = 2;

    private bool IsPlaced => data.Kind == PartKind.Line && data.HasPlaces;

    /// <summary>The chart, <c>xl/charts/chartN.xml</c>.</summary>
    public string Write() => $"""
        <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
        <c:chartSpace xmlns:c="http://schemas.openxmlformats.org/drawingml/2006/chart" xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"><c:roundedCorners val="0"/><c:chart>{Title(Heading, 1400)}<c:autoTitleDeleted val="0"/><c:plotArea><c:layout/>{Plot()}</c:plotArea>{Legend()}<c:plotVisOnly val="1"/><c:dispBlanksAs val="{Blanks}"/></c:chart><c:spPr>{Fill("FFFFFF")}{Stroke("D9DFDC", 6350, "solid")}</c:spPr></c:chartSpace>
        """;

    // Lying bars have no line at a value that stays in place when they are changed.
    private string Heading =>
        data.Kind == PartKind.Line || data.Thresholds.Count == 0
            ? title
            : $"{title} ({string.Join(", ", data.Thresholds.Select(threshold => $"{threshold.Words}: {Number(threshold.Value)}"))})";

    private string Plot() => data.Kind switch
    {
        PartKind.Share =>
            $"<c:doughnutChart><c:varyColors val=\"1\"/>{AllSeries()}<c:firstSliceAng val=\"0\"/><c:holeSize val=\"58\"/></c:doughnutChart>",
        PartKind.Bar => Bars("clustered", 0),
        PartKind.StackedBar => Bars("stacked", 100),
        PartKind.Line when IsPlaced =>
            $"<c:scatterChart><c:scatterStyle val=\"lineMarker\"/><c:varyColors val=\"0\"/>{AllSeries()}{AxisIds}</c:scatterChart>{Values("b", LabelAxis, ValueAxis, data.IsTime ? TimeFormat : "General", "")}{ValuesOfLine}",
        PartKind.Line =>
            $"<c:lineChart><c:grouping val=\"standard\"/><c:varyColors val=\"0\"/>{AllSeries()}<c:marker val=\"1\"/>{AxisIds}</c:lineChart>{Labels("b", "minMax")}{ValuesOfLine}",
        PartKind.Table or PartKind.Figure or PartKind.Text => throw new InvalidOperationException(
            $"a part of the kind {data.Kind} is not a chart"),
    };

    private string Bars(string grouping, int overlap) =>
        $"<c:barChart><c:barDir val=\"bar\"/><c:grouping val=\"{grouping}\"/><c:varyColors val=\"0\"/>{AllSeries()}<c:gapWidth val=\"40\"/><c:overlap val=\"{overlap}\"/>{AxisIds}</c:barChart>{Labels("l", "maxMin")}{Values("b", ValueAxis, LabelAxis, "General", FromZero)}";

    // A bar is as long as its value only from zero on.
    private string FromZero =>
        data.Series.SelectMany(series => series.Values).All(value => !(value < 0))
            ? "<c:min val=\"0\"/>"
            : data.Series.SelectMany(series => series.Values).All(
            value => !(value > 0)) ? "<c:max val=\"0\"/>" : "";

    private static string AxisIds => $"<c:axId val=\"{LabelAxis}\"/><c:axId val=\"{ValueAxis}\"/>";

    // Where series are measured at times of their own, those of the others leave cells empty that are not gaps.
    private string Blanks =>
        IsPlaced && data.Series.Any(
            series => series.Values.Index().Any(value => double.IsNaN(value.Item) && !series.Nulls.Contains(value.Index)))
            ? "span"
            : "gap";

    private string TimeFormat => data.HasDaysAlone ? "yyyy\\-mm\\-dd" : "yyyy\\-mm\\-dd\\ hh:mm";

    private string ValuesOfLine =>
        Values(
            "l",
            ValueAxis,
            LabelAxis,
            "General",
            data.Axis is { } axis ? $"<c:max val=\"{Number(axis.High)}\"/><c:min val=\"{Number(axis.Low)}\"/>" : "");

    private static string Labels(string side, string order) =>
        $"<c:catAx><c:axId val=\"{LabelAxis}\"/><c:scaling><c:orientation val=\"{order}\"/></c:scaling><c:delete val=\"0\"/><c:axPos val=\"{side}\"/><c:numFmt formatCode=\"General\" sourceLinked=\"0\"/><c:majorTickMark val=\"none\"/><c:minorTickMark val=\"none\"/><c:tickLblPos val=\"low\"/><c:crossAx val=\"{ValueAxis}\"/><c:crosses val=\"autoZero\"/><c:auto val=\"1\"/><c:lblAlgn val=\"ctr\"/><c:lblOffset val=\"100\"/><c:noMultiLvlLbl val=\"0\"/></c:catAx>";

    private string Values(string side, int id, int other, string format, string bounds)
    {
        // Bars begin at the top, and their numbers stand at the bottom all the same.
        var (crosses, beside) = data.Kind is PartKind.Bar or PartKind.StackedBar ? ("max", "nextTo") : ("autoZero", "low");
        var name = id == ValueAxis
            ? string.Join(" \u2013 ", new[] { data.Unit ?? "", data.Axis?.Note ?? "" }.Where(words => words.Length > 0))
            : "";
        var lines = id == ValueAxis
            ? "<c:majorGridlines><c:spPr><a:ln w=\"6350\"><a:solidFill><a:srgbClr val=\"D9DFDC\"/></a:solidFill></a:ln></c:spPr></c:majorGridlines>"
            : "";
        return $"<c:valAx><c:axId val=\"{id}\"/><c:scaling><c:orientation val=\"minMax\"/>{bounds}</c:scaling><c:delete val=\"0\"/><c:axPos val=\"{side}\"/>{lines}{(name.Length > 0 ? Title(name, 900) : "")}<c:numFmt formatCode=\"{format}\" sourceLinked=\"0\"/><c:majorTickMark val=\"none\"/><c:minorTickMark val=\"none\"/><c:tickLblPos val=\"{beside}\"/><c:crossAx val=\"{other}\"/><c:crosses val=\"{crosses}\"/><c:crossBetween val=\"{(IsPlaced ? "midCat" : "between")}\"/></c:valAx>";
    }

    private string AllSeries() =>
        string.Concat(data.Series.Select(Series)) + (data.Kind == PartKind.Line ? string.Concat(data.Thresholds.Select(Mark)) : "");

    private string Series(ChartSeries series, int place)
    {
        var letters = XlsxSheet.Letters(columns[place]);
        var color = (data.Series.Count == 1 && data.Kind != PartKind.Share
            ? ChartColors.Single
            : ChartColors.Series(place, series.Name == ChartData.Rest)).ToStringRGB()[1..];
        var head = Head(place, letters, series.Name);
        var values = NumbersAt(letters, series.Values);
        return data.Kind switch
        {
            PartKind.Share =>
                $"<c:ser>{head}{string.Concat(data.Labels.Select((label, slice) => $"<c:dPt><c:idx val=\"{slice}\"/><c:bubble3D val=\"0\"/><c:spPr>{Fill(ChartColors.Series(slice, label == ChartData.Rest).ToStringRGB()[1..])}</c:spPr></c:dPt>"))}<c:cat>{LabelsAt()}</c:cat><c:val>{values}</c:val></c:ser>",
            PartKind.Line =>
                $"<c:ser>{head}<c:spPr>{Stroke(color, 22225, "solid")}</c:spPr>{Marker(color)}{(IsPlaced ? $"<c:xVal>{NumbersAt("A", data.At)}</c:xVal><c:yVal>{values}</c:yVal>" : $"<c:cat>{LabelsAt()}</c:cat><c:val>{values}</c:val>")}<c:smooth val=\"0\"/></c:ser>",
            _ =>
                $"<c:ser>{head}<c:spPr>{Fill(color)}</c:spPr><c:invertIfNegative val=\"0\"/><c:cat>{LabelsAt()}</c:cat><c:val>{values}</c:val></c:ser>",
        };
    }

    // A column of one value, behind those of the series.
    private string Mark(Threshold threshold, int place)
    {
        var number = data.Series.Count + place;
        var letters = XlsxSheet.Letters(number + 1);
        var values = NumbersAt(letters, [.. data.Labels.Select(_ => threshold.Value)]);
        var line = IsPlaced
            ? $"<c:xVal>{NumbersAt("A", data.At)}</c:xVal><c:yVal>{values}</c:yVal>"
            : $"<c:cat>{LabelsAt()}</c:cat><c:val>{values}</c:val>";
        return $"<c:ser>{Head(number, letters, threshold.Words)}<c:spPr>{Stroke(ChartColors.Threshold[1..], 15875, "dash")}</c:spPr><c:marker><c:symbol val=\"none\"/></c:marker>{line}<c:smooth val=\"0\"/></c:ser>";
    }

    private string Head(int number, string letters, string name) =>
        $"<c:idx val=\"{number}\"/><c:order val=\"{number}\"/><c:tx><c:strRef><c:f>{Cell(letters, 1)}</c:f><c:strCache><c:ptCount val=\"1\"/><c:pt idx=\"0\"><c:v>{Escaped(name)}</c:v></c:pt></c:strCache></c:strRef></c:tx>";

    private string Marker(string color) => data.Labels.Count > 40
        ? "<c:marker><c:symbol val=\"none\"/></c:marker>"
        : $"<c:marker><c:symbol val=\"circle\"/><c:size val=\"5\"/><c:spPr>{Fill(color)}{Stroke(color, 6350, "solid")}</c:spPr></c:marker>";

    private string Legend() =>
        data.Series.Count + (data.Kind == PartKind.Line ? data.Thresholds.Count : 0) < 2 && data.Kind != PartKind.Share
            ? ""
            : $"<c:legend><c:legendPos val=\"{(data.Kind == PartKind.Share ? "r" : "b")}\"/><c:overlay val=\"0\"/></c:legend>";

    private string LabelsAt() =>
        $"<c:strRef><c:f>{Cells("A")}</c:f><c:strCache><c:ptCount val=\"{data.Labels.Count}\"/>{string.Concat(data.Labels.Select((label, place) => $"<c:pt idx=\"{place}\"><c:v>{Escaped(label)}</c:v></c:pt>"))}</c:strCache></c:strRef>";

    private string NumbersAt(string letters, IReadOnlyList<double> values) =>
        $"<c:numRef><c:f>{Cells(letters)}</c:f><c:numCache>{Points(values)}</c:numCache></c:numRef>";

    private static string Points(IReadOnlyList<double> values) =>
        $"<c:formatCode>General</c:formatCode><c:ptCount val=\"{values.Count}\"/>{string.Concat(values.Index().Where(point => double.IsFinite(point.Item)).Select(point => $"<c:pt idx=\"{point.Index}\"><c:v>{Number(point.Item)}</c:v></c:pt>"))}";

    private string Cells(string letters) => $"{Cell(letters, 2)}:${letters}${data.Labels.Count + 1}";

    private string Cell(string letters, int row) => Escaped($"'{sheet.Replace("'", "''", StringComparison.Ordinal)}'!${letters}${row}");

    private static string Title(string words, int size) =>
        $"<c:title><c:tx><c:rich><a:bodyPr/><a:p><a:pPr><a:defRPr sz=\"{size}\" b=\"0\"/></a:pPr><a:r><a:rPr lang=\"en\" sz=\"{size}\" b=\"0\"/><a:t>{Escaped(words)}</a:t></a:r></a:p></c:rich></c:tx><c:overlay val=\"0\"/></c:title>";

    private static string Fill(string color) => $"<a:solidFill><a:srgbClr val=\"{color}\"/></a:solidFill>";

    private static string Stroke(string color, int width, string dash) =>
        $"<a:ln w=\"{width}\">{Fill(color)}<a:prstDash val=\"{dash}\"/></a:ln>";

    private static string Number(double value) => value.ToString("R", CultureInfo.InvariantCulture);

    private static string Escaped(string text) => XlsxText.Of(text);
}
