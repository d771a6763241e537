using Cursiva.Core.Jobs;
using Cursiva.Core.Tests.Tables;
using DocumentFormat.OpenXml.Drawing.Charts;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Validation;

namespace Cursiva.Core.Tests.Reports;

/// <summary>Charts that a spreadsheet draws itself from cells.</summary>
public sealed class WorkbookChartTests : IDisposable
{
    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Theory]
    [InlineData(PartKind.Bar, "select 'Møllehavn & <co>' as depot, 12 as late union all select 'Saltmarsh', null", typeof(BarChart), "'It''s late'!$A$2:$A$3 'It''s late'!$B$2:$B$3")]
    [InlineData(PartKind.StackedBar, "select 'a' as depot, 'x' as words, 12 as late, 3.5 as held union all select 'b', 'y', 7, null", typeof(BarChart), "'It''s late'!$A$2:$A$3 'It''s late'!$C$2:$C$3 'It''s late'!$A$2:$A$3 'It''s late'!$D$2:$D$3")]
    [InlineData(PartKind.StackedBar, "select 'a' as depot, 'late' as s, 12 as n union all select 'b', 'held', 3", typeof(BarChart), "'It''s late (chart)'!$A$2:$A$3 'It''s late (chart)'!$B$2:$B$3 'It''s late (chart)'!$A$2:$A$3 'It''s late (chart)'!$C$2:$C$3")]
    [InlineData(PartKind.Line, "select date '2026-03-02' + i::integer as day, 20 + i as n from range(5) r(i)", typeof(ScatterChart), "'It''s late'!$A$2:$A$6 'It''s late'!$B$2:$B$6")]
    [InlineData(PartKind.Line, "select 'week ' || i as week, i as n from range(5) r(i)", typeof(LineChart), "'It''s late'!$A$2:$A$6 'It''s late'!$B$2:$B$6")]
    [InlineData(PartKind.Line, "select timestamp '2026-03-02' + to_minutes(i) as at, 's' as s, i as n from range(5) r(i)", typeof(ScatterChart), "'It''s late (chart)'!$A$2:$A$6 'It''s late (chart)'!$B$2:$B$6")]
    [InlineData(PartKind.Share, "select 'a' as depot, 12 as late union all select 'b', 7", typeof(DoughnutChart), "'It''s late'!$A$2:$A$3 'It''s late'!$B$2:$B$3")]
    [InlineData(PartKind.Share, "select 'd' || i as depot, i as late from range(1, 11) r(i)", typeof(DoughnutChart), "'It''s late (chart)'!$A$2:$A$8 'It''s late (chart)'!$B$2:$B$8")]
    public void A_chart_is_drawn_from_cells(PartKind kind, string sql, Type drawn, string cells)
    {
        _fixture.WriteFiles([Chart(kind, sql), ReportFixture.Table("select 1 as n")], ["out.xlsx"]);
        using var document = SpreadsheetDocument.Open(_fixture["out.xlsx"], false);
        new OpenXmlValidator().Validate(document).Select(error => $"{error.Part?.Uri} {error.Path?.XPath}: {error.Description}").ShouldBeEmpty();
        var chart = ChartOf(document);
        chart.Descendants().ShouldContain(element => element.GetType() == drawn);
        string.Join(' ', chart.Descendants<Formula>().Select(formula => formula.Text).Where(formula => formula.Contains(':'))).ShouldBe(cells);
    }

    [Fact]
    public void What_a_chart_adds_up_stands_in_cells_of_its_own()
    {
        _fixture.WriteFiles([Chart(PartKind.Share, "select 'd' || i as depot, i as late from range(1, 11) r(i)")], ["out.xlsx"]);
        var sheets = ReadBack.Xlsx(_fixture["out.xlsx"]);
        sheets.ConvertAll(sheet => sheet.Name).ShouldBe(["It's late", "It's late (chart)", "About"]);
        sheets[0].Cells["A11"].Value.ShouldBe("d10");
        (sheets[1].Cells["A1"].Value, sheets[1].Cells["B1"].Value, sheets[1].Cells["A2"].Value, sheets[1].Cells["B2"].Value, sheets[1].Cells["A8"].Value, sheets[1].Cells["B8"].Value).ShouldBe(("depot", "late", "d10", "10", "others", "10"));
    }

    [Fact]
    public void Marks_and_the_axis_are_those_of_the_other_formats()
    {
        _fixture.WriteFiles([Chart(PartKind.Line, "select i as at, 20 + i as v from range(4) r(i)", new Threshold(22.5, "limit"))], ["out.xlsx"]);
        using var document = SpreadsheetDocument.Open(_fixture["out.xlsx"], false);
        var chart = ChartOf(document);
        new OpenXmlValidator().Validate(document).ShouldBeEmpty();
        var mark = chart.Descendants<ScatterChartSeries>().Last();
        mark.SeriesText!.Descendants<NumericValue>().Single().Text.ShouldBe("limit");
        mark.Descendants<YValues>().Single().Descendants<NumericValue>().Select(value => value.Text).ShouldBe(["22.5", "22.5", "22.5", "22.5"]);
        mark.Descendants<Formula>().Last().Text.ShouldBe("'It''s late (chart)'!$C$2:$C$5");
        ReadBack.Xlsx(_fixture["out.xlsx"])[1].Cells["C3"].Value.ShouldBe("22.5");
        chart.Descendants<MinAxisValue>().Single().Val!.Value.ShouldBe(20);
        chart.Descendants<ValueAxis>().Last().Descendants<Title>().Single().InnerText.ShouldBe("the axis begins at 20, not at 0");
    }

    [Theory]
    [InlineData("3, 7", 0.0, null)]
    [InlineData("-3, -7", null, 0.0)]
    [InlineData("-3, 7", null, null)]
    public void Bars_begin_at_zero(string values, double? least, double? most)
    {
        _fixture.WriteFiles([Chart(PartKind.Bar, $"select 'd' || v as d, v from (select unnest([{values}]) as v)")], ["out.xlsx"]);
        using var document = SpreadsheetDocument.Open(_fixture["out.xlsx"], false);
        var scaling = ChartOf(document).Descendants<ValueAxis>().Single().Scaling!;
        (scaling.MinAxisValue?.Val?.Value, scaling.MaxAxisValue?.Val?.Value).ShouldBe((least, most));
    }

    [Fact]
    public void A_chart_without_rows_has_its_head_and_no_chart()
    {
        _fixture.WriteFiles([Chart(PartKind.Bar, "select 'a' as depot, 1 as n where false")], ["out.xlsx"]);
        using var document = SpreadsheetDocument.Open(_fixture["out.xlsx"], false);
        document.WorkbookPart!.WorksheetParts.ShouldAllBe(sheet => sheet.DrawingsPart == null);
        new OpenXmlValidator().Validate(document).ShouldBeEmpty();
    }

    private static Part Chart(PartKind kind, string sql, params Threshold[] thresholds) => ReportFixture.PartOf("It's late", kind, sql, thresholds: thresholds);

    private static DocumentFormat.OpenXml.Drawing.Charts.ChartSpace ChartOf(SpreadsheetDocument document) =>
        document.WorkbookPart!.WorksheetParts.Single(sheet => sheet.DrawingsPart is not null).DrawingsPart!.ChartParts.ShouldHaveSingleItem().ChartSpace!;
}
