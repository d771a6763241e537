using System.Xml.Linq;
using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;
using Cursiva.Core.Tests.Tables;

namespace Cursiva.Core.Tests.Reports;

public sealed class ChartTests : IDisposable
{
    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Theory]
    [InlineData(PartKind.Bar, "select 'Møllehavn' as depot, 12 as late union all select 'Saltmarsh', 7")]
    [InlineData(PartKind.StackedBar, "select 'Møllehavn' as depot, 12 as late, 3 as held union all select 'Saltmarsh', 7, null")]
    [InlineData(PartKind.Line, "select date '2026-03-02' + i::integer as day, i * 2 as booked from range(30) r(i)")]
    [InlineData(PartKind.Share, "select 'Møllehavn' as depot, 12 as late union all select 'Saltmarsh', 7")]
    [InlineData(PartKind.Bar, "select 'a' as depot, 1 as late where false")]
    public void Charts_are_SVG_and_PNG_and_the_same_bytes_every_time(PartKind kind, string sql)
    {
        var part = ReportFixture.PartOf("chart", kind, sql, unit: "consignments");
        _fixture.WriteFiles([part], ["a.svg", "a.png", "page.html"]);
        var (svg, png, page) = (File.ReadAllBytes(_fixture["a.svg"]), File.ReadAllBytes(_fixture["a.png"]), File.ReadAllBytes(_fixture["page.html"]));
        _fixture.WriteFiles([part], ["a.svg", "a.png", "page.html"]);
        File.ReadAllBytes(_fixture["a.svg"]).AsSpan().SequenceEqual(svg).ShouldBeTrue();
        File.ReadAllBytes(_fixture["a.png"]).AsSpan().SequenceEqual(png).ShouldBeTrue();
        File.ReadAllBytes(_fixture["page.html"]).AsSpan().SequenceEqual(page).ShouldBeTrue();
        png.AsSpan(1, 3).SequenceEqual("PNG"u8).ShouldBeTrue();
        System.Buffers.Binary.BinaryPrimitives.ReadInt32BigEndian(png.AsSpan(16)).ShouldBe(kind == PartKind.Share ? 1280 : 2000);
        var drawn = XDocument.Parse(System.Text.Encoding.UTF8.GetString(svg));
        var words = string.Concat(drawn.Descendants().Where(element => element.Name.LocalName == "text").Select(element => element.Value));
        words.ShouldContain(sql.Contains("where false") ? "No rows" : kind == PartKind.Line ? "consignments" : "Møllehavn");
    }

    [Theory]
    [InlineData("1000", 9)]
    [InlineData("123456789", 9)]
    [InlineData("123456789", 40)]
    public void The_longest_value_fits_behind_its_bar(string value, int label)
    {
        var sql = $"select '{new string('m', label)}' as depot, {value} as n union all select 'b', 7";
        _fixture.WriteFiles([ReportFixture.PartOf("chart", PartKind.Bar, sql)], ["a.svg"]);
        var svg = XDocument.Parse(File.ReadAllText(_fixture["a.svg"]));
        var width = double.Parse(svg.Root!.Attribute("width")!.Value.Replace("px", ""), System.Globalization.CultureInfo.InvariantCulture);
        var ends = svg.Descendants().Where(element => element.Name.LocalName == "text" && string.Concat(element.Value.Where(char.IsAsciiDigit)) == value).Select(EndOf).ToList();
        ends.ShouldNotBeEmpty();
        ends.Max().ShouldBeLessThan(width - 30);
    }

    // Behind the last letter of a text.
    private static double EndOf(XElement text)
    {
        static double Number(string digits) => double.Parse(digits, System.Globalization.CultureInfo.InvariantCulture);
        var from = System.Text.RegularExpressions.Regex.Match(text.Attribute("transform")!.Value, @"translate\(([\d.]+)").Groups[1].Value;
        return Number(from) + Number(text.Attribute("x")!.Value.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)[^1]) + 8;
    }

    [Fact]
    public void Two_charts_of_a_page_do_not_share_names()
    {
        _fixture.WriteFiles([ReportFixture.PartOf("one", PartKind.Bar, "select 'a' as a, 1 as n"), ReportFixture.PartOf("two", PartKind.Bar, "select 'b' as b, 2 as n")], ["page.html"]);
        var names = System.Text.RegularExpressions.Regex.Matches(File.ReadAllText(_fixture["page.html"]), " id=\"([^\"]+)\"").Select(match => match.Groups[1].Value).ToList();
        names.Count.ShouldBeGreaterThan(1);
        names.ShouldBeUnique();
    }

    [Fact]
    public void More_bars_than_an_eye_takes_are_left_out_and_said()
    {
        var data = DataOf(PartKind.Bar, "select 'd' || i as d, i as n from range(40) r(i)");
        (data.Labels.Count, data.Note).ShouldBe((30, "the first 30 of 40"));
    }

    [Fact]
    public void Small_shares_are_put_together()
    {
        var data = DataOf(PartKind.Share, "select 'd' || i as d, i as n from range(1, 11) r(i)");
        data.Labels.ShouldBe(["d10", "d9", "d8", "d7", "d6", "d5", "others"]);
        data.Series[0].Values.ShouldBe([10, 9, 8, 7, 6, 5, 10]);
        data.Note.ShouldBe("4 of 10 are combined as others");
    }

    [Fact]
    public void Rows_of_label_series_and_value_become_series()
    {
        var data = DataOf(PartKind.StackedBar, "select * from (values ('a', 'late', 1), ('a', 'held', 2), ('b', 'late', 3)) t(d, s, n)");
        data.Series.Select(series => series.Name).ShouldBe(["late", "held"]);
        data.Series[0].Values.ShouldBe([1, 3]);
        data.Series[1].Values[0].ShouldBe(2);
        double.IsNaN(data.Series[1].Values[1]).ShouldBeTrue();
    }

    [Fact]
    public void More_series_than_a_palette_has_are_added_up_only_where_they_are_stacked()
    {
        const string sql = "select 'd' as d, 's' || i as s, i as n from range(1, 10) r(i)";
        var stacked = DataOf(PartKind.StackedBar, sql);
        stacked.Series.Select(series => (series.Name, series.Values[0])).ShouldBe([("s5", 5), ("s6", 6), ("s7", 7), ("s8", 8), ("s9", 9), ("others", 10)]);
        var lines = DataOf(PartKind.Line, sql);
        lines.Series.Select(series => series.Name).ShouldBe(["s4", "s5", "s6", "s7", "s8", "s9"]);
        lines.Note.ShouldBe("the largest 6 of 9 series");
    }

    [Theory]
    [InlineData(PartKind.Bar, "select 'a' as a, 'b' as b", "no column of numbers")]
    [InlineData(PartKind.Share, "select 'a' as a, -1 as n", "below zero")]
    [InlineData(PartKind.Line, "select i as a, i as n from range(5001) r(i)", "more than 5000 rows")]
    public void Rows_that_make_no_chart_are_told(PartKind kind, string sql, string said) => Should.Throw<TableException>(() => DataOf(kind, sql)).Message.ShouldContain(said);

    [Theory]
    [InlineData("20, 21.4, 23", 20, 23, "the axis begins at 20, not at 0")]
    [InlineData("-20, -21.4, -23", -23, -20, "the axis ends at -20, not at 0")]
    [InlineData("1200345, 1200400", 1200345, 1200400, "the axis begins at 1\u202F200\u202F345, not at 0")]
    [InlineData("1785, 1786", 1784, 1788, "the axis begins at 1\u202F784, not at 0")]
    [InlineData("-1785, -1786", -1787, -1783, "the axis ends at -1\u202F783, not at 0")]
    [InlineData("0.0121, 0.0127", 0.0121, 0.0127, "the axis begins at 0.0121, not at 0")]
    [InlineData("5, 9", 0, 9.72, "")]
    [InlineData("-3, 9", -3.96, 9.96, "")]
    [InlineData("7, 7", 0, 7.56, "")]
    [InlineData("0, 0", 0, 1e-9, "")]
    public void A_line_far_from_zero_has_an_axis_that_fits_it_and_says_so(string values, double low, double high, string note)
    {
        var data = DataOf(PartKind.Line, $"select row_number() over () as at, v::double as v from (select unnest([{values}]) as v)");
        data.Axis!.Low.ShouldBe(low, 1e-9);
        data.Axis.High.ShouldBe(high, 1e-9);
        (data.Axis.Note, data.Note).ShouldBe((note, note));
        if (note.Length > 0)
            WordsOf(data).ShouldContain(note);
    }

    [Fact]
    public void A_mark_is_on_the_axis_and_has_its_words()
    {
        var data = DataOf(PartKind.Line, "select i as at, 20.0 + i as v from range(4) r(i)", new Threshold(8, "limit"));
        (data.Axis!.Low, data.Axis.High, data.Note).ShouldBe((0, 24.84, ""));
        WordsOf(data).ShouldContain("limit (8)");
        WordsOf(DataOf(PartKind.Bar, "select 'a' as d, 3 as n", new Threshold(8.5, "full"))).ShouldContain("full (8.5)");
    }

    [Theory]
    [InlineData("select day, 1 as n from (select date '2026-03-02' + i::integer as day, i from range(10) r(i)) where i not in (4, 5)", "4,4")]
    [InlineData("select date '2026-03-02' + i::integer as day, case when i = 4 then null else i end as n from range(10) r(i)", "4,5")]
    [InlineData("select i as at, case when i = 4 then null else i end as n from range(10) r(i)", "4,5")]
    [InlineData("select date_add(date '2026-01-01', to_months(i::integer))::date as month, 1 as n from range(12) r(i) where i <> 6", "6,5")]
    [InlineData("select timestamp '2026-03-02' + to_seconds((i * i * 1000)::bigint) as at, 1 as n from range(10) r(i)", "10")]
    [InlineData("select i as at, 1 as n from range(10) r(i) where i <> 4", "9")]
    public void A_line_has_a_gap_where_nothing_was_measured(string sql, string points)
    {
        var data = DataOf(PartKind.Line, sql);
        string.Join(',', ChartLine.Stretches(data.At, data.Series[0], data.IsTime).Select(stretch => stretch.Count)).ShouldBe(points);
    }

    [Fact]
    public void Series_that_are_measured_at_times_of_their_own_are_whole_lines()
    {
        var data = DataOf(PartKind.Line, "select timestamp '2026-03-02' + to_minutes(i * 30) as at, case when i % 2 = 0 then 'a' else 'b' end as s, case when i = 6 then null else i end as n from range(20) r(i)");
        data.Series.Select(series => ChartLine.Stretches(data.At, series, data.IsTime).Select(stretch => stretch.Count)).ShouldBe([[3, 6], [10]]);
    }

    private static string WordsOf(ChartData data)
    {
        using var drawing = new ChartDrawing(data);
        return string.Concat(XDocument.Parse(System.Text.Encoding.UTF8.GetString(drawing.Svg())).Descendants().Where(element => element.Name.LocalName == "text").Select(element => element.Value));
    }

    private ChartData DataOf(PartKind kind, string sql, params Threshold[] thresholds)
    {
        var columns = ResultColumn.Describe(_fixture.Database, sql);
        var rows = new ChartRows(new PartHead(ReportFixture.PartOf("chart", kind, sql, thresholds: thresholds), columns, [], null), new ShownValue(TimeZoneInfo.Utc));
        using var result = _fixture.Database.Query(ResultColumn.AsText(columns, sql));
        while (result.Read())
            rows.Add(result);
        return rows.Data();
    }
}
