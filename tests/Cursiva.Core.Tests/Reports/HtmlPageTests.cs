using System.Text.Json;
using System.Text.RegularExpressions;
using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;
using Cursiva.Core.Tests.Tables;

namespace Cursiva.Core.Tests.Reports;

/// <summary>Pages, fragments and Markdown: what people read.</summary>
public sealed partial class HtmlPageTests : IDisposable
{
    private const string Hostile = "</script><img src=x onerror=alert(1)>\"'&<!--";
    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Theory]
    [InlineData("page.html")]
    [InlineData("mail.fragment.html")]
    [InlineData("wiki.md")]
    public void Hostile_values_are_words_and_nothing_else(string file)
    {
        var sql = $"select '{Hostile.Replace("'", "''")}' as \"{Hostile.Replace("\"", "\"\"")}\", 1 as n";
        var context = ReportFixture.Context with { Skips = [new SkippedLine("t", Hostile, 1, [Hostile])], Warnings = [Hostile], Job = Hostile };
        _fixture.WriteFiles(
            [
                ReportFixture.PartOf(Hostile, PartKind.Table, sql),
                ReportFixture.PartOf("bars", PartKind.Bar, $"select '{Hostile.Replace("'", "''")}' as a, 1 as n"),
                ReportFixture.PartOf("figure", PartKind.Figure, $"select '{Hostile.Replace("'", "''")}'", unit: Hostile),
                ReportFixture.PartOf("words", PartKind.Text, null, words: Hostile),
            ],
            [file],
            context: context);
        var text = File.ReadAllText(_fixture[file]);
        text.ShouldNotContain("<img");
        text.ShouldNotContain("</script><");
        text.ShouldNotContain("<!--");
        ScriptTags().Count(text).ShouldBe(file == "page.html" ? 2 : 0);
    }

    [Theory]
    [InlineData("page.html", "<td class=\"number\">{0}</td>")]
    [InlineData("mail.fragment.html", "text-align:right;\">{0}</td>")]
    [InlineData("wiki.md", "| {0} ")]
    public void Amounts_have_their_thousands_apart_and_names_in_digits_have_not(string file, string cell)
    {
        var columns = new[] { ("parcels", "50833"), ("weight_kg", "-1234567.25"), ("small", "999"), ("order_id", "70001"), ("orderId", "70002"), ("ID", "70003"), ("year", "2026"), ("order number", "70004") };
        var sql = $"select {string.Join(", ", columns.Select(column => $"{column.Item2} as \"{column.Item1}\""))}, '80808' as told, null::integer as none";
        _fixture.WriteFiles([ReportFixture.Table(sql), ReportFixture.PartOf("bars", PartKind.Bar, "select 'a' as depot, 40404 as parcels")], [file]);
        var text = File.ReadAllText(_fixture[file]);
        foreach (var shown in new[] { "50\u202f833", "-1\u202f234\u202f567.25", "999", "70001", "70002", "70003", "2026", "70004", "40\u202f404" })
            text.ShouldContain(string.Format(System.Globalization.CultureInfo.InvariantCulture, cell, shown));
        text.ShouldContain("80808");
        if (file == "page.html")
        {
            text.ShouldContain("data-kinds=\"amount amount amount number number number number number text amount\"");
            text.ShouldContain("\"50833\"", customMessage: "the rows for sorting and filtering are as they came");
        }
    }

    [Fact]
    public void A_page_asks_nobody_for_anything()
    {
        _fixture.WriteFiles([ReportFixture.Table("select 1 as n"), ReportFixture.PartOf("bars", PartKind.Bar, "select 'a' as a, 1 as n")], ["page.html"]);
        var page = File.ReadAllText(_fixture["page.html"]);
        page.ShouldContain("default-src 'none'");
        Addresses().Matches(page).Select(match => match.Value).Distinct().ShouldBe(["http://www.w3.org/2000/svg", "http://www.w3.org/1999/xlink"]);
        page.ShouldNotContain("<link");
        page.ShouldNotContain("@import");
        page.ShouldNotContain("url(http");
        page.ShouldNotContain(" src=");
    }

    [Fact]
    public void The_only_script_that_may_run_is_the_pages_own()
    {
        _fixture.WriteFiles([ReportFixture.Table("select 1 as n")], ["page.html"]);
        var page = File.ReadAllText(_fixture["page.html"]);
        var script = page[(page.LastIndexOf("<script>", StringComparison.Ordinal) + 8)..page.LastIndexOf("</script>", StringComparison.Ordinal)];
        page.ShouldContain($"script-src 'sha256-{Convert.ToBase64String(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(script)))}'");
    }

    [Fact]
    public void A_page_holds_its_rows_as_they_are_and_shows_the_first_without_scripts()
    {
        _fixture.WriteFiles([ReportFixture.Table("select i as n, case when i = 1 then null when i = 2 then '' else 'é<' || i end as t, timestamp '2026-03-02 01:02:03' as at from range(120) r(i)")], ["page.html"]);
        var page = File.ReadAllText(_fixture["page.html"]);
        var rows = JsonDocument.Parse(RowsOf().Match(page).Groups[1].Value).RootElement;
        rows.GetArrayLength().ShouldBe(120);
        rows[1][1].ValueKind.ShouldBe(JsonValueKind.Null);
        rows[2][1].GetString().ShouldBe("");
        rows[119][1].GetString().ShouldBe("é<119");
        rows[0][2].GetString().ShouldBe("2026-03-02 02:02:03");
        page.ShouldContain("at (Europe/Oslo)");
        Regex.Count(page, "<tr>").ShouldBe(51);
        page.ShouldContain("The first 50 of 120 rows");
    }

    [Theory]
    [InlineData("2026-07-02 01:02:03.25", "2026-07-02 03:02:03.25")]
    [InlineData("2026-03-29 00:59:59", "2026-03-29 01:59:59")]
    [InlineData("2026-03-29 01:00:00", "2026-03-29 03:00:00")]
    [InlineData("2025-12-31 23:30:00.000001", "2026-01-01 00:30:00.000001")]
    public void People_read_times_in_the_zone_of_the_job(string utc, string shown)
    {
        _fixture.WriteFiles([ReportFixture.Table($"select timestamp '{utc}' as at")], ["page.html", "wiki.md", "mail.fragment.html", "plain.csv"]);
        foreach (var file in new[] { "page.html", "wiki.md", "mail.fragment.html" })
        {
            File.ReadAllText(_fixture[file]).ShouldContain(shown);
            File.ReadAllText(_fixture[file]).ShouldContain("at (Europe/Oslo)");
        }

        File.ReadAllText(_fixture["plain.csv"]).ShouldContain(utc.Replace(' ', 'T') + "Z");
    }

    [Fact]
    public void What_a_page_does_not_hold_is_said()
    {
        _fixture.WriteFiles([ReportFixture.Table("select i as n from range(50001) r(i)")], ["page.html", "wiki.md", "mail.fragment.html"]);
        var page = File.ReadAllText(_fixture["page.html"]);
        page.ShouldContain("The first 50\u202f000 of 50\u202f001 rows are in this page.");
        JsonDocument.Parse(RowsOf().Match(page).Groups[1].Value).RootElement.GetArrayLength().ShouldBe(50_000);
        File.ReadAllText(_fixture["wiki.md"]).ShouldContain("The first 1\u202f000 of 50\u202f001 rows.");
        File.ReadAllText(_fixture["mail.fragment.html"]).ShouldContain("The first 200 of 50\u202f001 rows.");
    }

    [Fact]
    public void A_fragment_has_neither_scripts_nor_style_sheets()
    {
        _fixture.WriteFiles([ReportFixture.PartOf("late", PartKind.Figure, "select 1234567"), ReportFixture.PartOf("bars", PartKind.Bar, "select 'a' as a, 4 as n union all select 'b', 1")], ["mail.fragment.html"]);
        var fragment = File.ReadAllText(_fixture["mail.fragment.html"]);
        foreach (var forbidden in new[] { "<script", "<style", "<link", "class=", "<svg", "<html" })
            fragment.ShouldNotContain(forbidden);
        fragment.ShouldContain("1\u202f234\u202f567");
        fragment.ShouldContain("width:100%;\"></div>");
        fragment.ShouldContain("width:25%;\"></div>");
    }

    [Theory]
    [InlineData("12", "10", "+2, +20.0 % since 2 March 2026")]
    [InlineData("9", "10", "−1, −10.0 % since 2 March 2026")]
    [InlineData("10", "10", "unchanged since 2 March 2026")]
    [InlineData("5", "0", "+5 since 2 March 2026")]
    [InlineData("12000.5", "10000", "+2\u202f000.5, +20.0 % since 2 March 2026")]
    [InlineData("north", "south", "was south since 2 March 2026")]
    [InlineData("12", null, "")]
    public void A_figure_says_how_it_has_changed(string now, string? before, string said) =>
        ReportWords.Change(now, before, ReportFixture.Context).ShouldBe(said);

    [Theory]
    [InlineData("select 1 as a, 2 as b", "2 columns")]
    [InlineData("select 1 as a where false", "no row")]
    [InlineData("select 1 as a union all select 2", "several rows")]
    public void A_figure_is_one_value(string sql, string said) =>
        Should.Throw<ReportException>(() => _fixture.WriteFiles([ReportFixture.PartOf("late", PartKind.Figure, sql)], ["wiki.md"])).Refusal.What.ShouldContain(said);

    [Fact]
    public void Markdown_has_a_table_with_numbers_to_the_right()
    {
        _fixture.WriteFiles([ReportFixture.Table("select 'a|b' as depot, 3 as late, null as z")], ["wiki.md"]);
        File.ReadAllText(_fixture["wiki.md"]).ShouldContain("| depot | late | z |\n|---|--:|--:|\n| a\\|b | 3 |  |\n");
    }

    [GeneratedRegex("<script")]
    private static partial Regex ScriptTags();

    [GeneratedRegex("https?://[^\"'\\s<)]+")]
    private static partial Regex Addresses();

    [GeneratedRegex("<script type=\"application/json\" id=\"part1\">(.*?)</script>", RegexOptions.Singleline)]
    private static partial Regex RowsOf();
}
