using System.Globalization;
using System.Text;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Reports;

/// <summary>
/// A sheet with the values of a chart as it shows them, where its rows do not stand so: taken apart, added up, omitted or marked.
/// </summary>
internal static class XlsxChartTable
{
    /// <summary>The sheet, with a chart on it.</summary>
    /// <param name="label">The head of the first column.</param>
    public static byte[] Write(ChartData data, string label)
    {
        var rows = new StringBuilder();
        var style = !data.IsTime ? XlsxStyles.Plain : data.HasDaysAlone ? XlsxStyles.Date : XlsxStyles.Time;
        IReadOnlyList<Threshold> thresholds = data.Kind == PartKind.Line ? data.Thresholds : [];
        Row(
            rows,
            1,
            [.. data.Series.Select(series => series.Name).Prepend(label).Concat(thresholds.Select(threshold => threshold.Words)).Select(
                (name, column) => Words(column, 1, name, column == 0 ? XlsxStyles.Head : XlsxStyles.NumberHead))]);
        for (var place = 0; place < data.Labels.Count; place++)
        {
            var row = place + 2;
            var at = data.At[place];
            var first = data.HasPlaces && double.IsFinite(at)
                ? Number(0, row, at, style)
                : Words(0, row, data.Labels[place], XlsxStyles.Plain);
            Row(
                rows,
                row,
                [
                    first,
                    .. data.Series.Select(
                        (series, column) => double.IsFinite(series.Values[place])
                            ? Number(column + 1, row, series.Values[place], XlsxStyles.Plain)
                            : ""),
                    .. thresholds.Select(
                        (threshold, column) => Number(column + data.Series.Count + 1, row, threshold.Value, XlsxStyles.Plain)),
                ]);
        }

        return Encoding.UTF8.GetBytes($"""
            <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
            <worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheetPr><pageSetUpPr fitToPage="1"/></sheetPr><sheetViews><sheetView workbookViewId="0"/></sheetViews><sheetFormatPr defaultRowHeight="15"/><cols><col min="1" max="1" width="{Math.Clamp(data.Labels.Append(label).Max(one => one.Length) + 2, 8, 60)}" customWidth="1"/><col min="2" max="{data.Series.Count + thresholds.Count + 1}" width="14" customWidth="1"/></cols><sheetData>{rows}</sheetData><pageMargins left="0.5" right="0.5" top="0.75" bottom="0.75" header="0.3" footer="0.3"/><pageSetup orientation="landscape" fitToHeight="0"/>{XlsxCharts.OnSheet}</worksheet>
            """);
    }

    private static void Row(StringBuilder rows, int number, IReadOnlyList<string> cells) =>
        rows.Append(CultureInfo.InvariantCulture, $"<row r=\"{number}\">").AppendJoin("", cells).Append("</row>");

    private static string Number(int column, int row, double value, int style) =>
        string.Create(CultureInfo.InvariantCulture, $"<c r=\"{XlsxSheet.Letters(column)}{row}\" s=\"{style}\"><v>{value:R}</v></c>");

    private static string Words(int column, int row, string text, int style) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"<c r=\"{XlsxSheet.Letters(column)}{row}\" s=\"{style}\" t=\"inlineStr\"><is><t xml:space=\"preserve\">{XlsxText.Of(text)}</t></is></c>");
}
