using System.Globalization;
using System.Text;
using System.Text.Json;
using CsCheck;
using CsvHelper;
using CsvHelper.Configuration;
using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;
using Cursiva.Core.Tests.Tables;

namespace Cursiva.Core.Tests.Reports;

/// <summary>Whatever a text is made of, it comes back out of every format that another reader reads.</summary>
public sealed class RoundTripTests : IDisposable
{
    private static readonly Gen<string> s_text = Gen.OneOf(
        Gen.String[Gen.Char["abc,;\"'\r\n\t =+-@_x0<>&é|\\{}[]"], 0, 24],
        Gen.String[Gen.Char['\u0001', '\ud7ff'], 0, 12],
        Gen.Const("_x0041_"),
        Gen.Const("😀 end"));

    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Fact]
    public void CSV_of_every_delimiter_is_read_by_another_reader()
    {
        Gen.Select(s_text.Array[1, 6], Gen.Char[",;\t|"]).Sample(
            (texts, delimiter) =>
            {
                var csv = _fixture.Write(Sql(texts), csv: CsvForm.Plain with { Delimiter = delimiter });
                using var reader = new CsvParser(new StringReader(csv), new CsvConfiguration(CultureInfo.InvariantCulture) { Delimiter = delimiter.ToString(), HasHeaderRecord = false, IgnoreBlankLines = false });
                reader.Read().ShouldBeTrue();
                reader.Read().ShouldBeTrue();
                reader.Record!.ShouldBe(texts);
            },
            iter: 60,
            threads: 1);
    }

    [Fact]
    public void JSON_is_read_by_another_reader()
    {
        s_text.Array[1, 6].Sample(
            texts =>
            {
                foreach (var file in new[] { "out.jsonl", "out.json" })
                {
                    var root = JsonDocument.Parse(_fixture.Write(Sql(texts), file)).RootElement;
                    var row = root.ValueKind == JsonValueKind.Array ? root[0] : root;
                    row.EnumerateObject().Select(property => property.Value.GetString()).ShouldBe(texts);
                }
            },
            iter: 60,
            threads: 1);
    }

    [Fact]
    public void Cells_of_a_workbook_are_read_by_another_reader()
    {
        s_text.Array[1, 6].Sample(
            texts =>
            {
                _fixture.WriteFiles([ReportFixture.Table(Sql(texts))], ["out.xlsx"]);
                var cells = ReadBack.Xlsx(_fixture["out.xlsx"])[0].Cells;
                texts.Index().ShouldAllBe(text => Unescaped(cells[XlsxSheet.Letters(text.Index) + "2"].Value) == text.Item);
            },
            iter: 40,
            threads: 1);
    }

    [Fact]
    public void A_page_holds_every_text_as_it_is()
    {
        s_text.Array[1, 6].Sample(
            texts =>
            {
                _fixture.WriteFiles([ReportFixture.Table(Sql(texts))], ["page.html"]);
                var page = File.ReadAllText(_fixture["page.html"]);
                var start = page.IndexOf("id=\"part1\">", StringComparison.Ordinal) + 11;
                var rows = JsonDocument.Parse(page[start..page.IndexOf("</script>", start, StringComparison.Ordinal)]).RootElement;
                rows[0].EnumerateArray().Select(value => value.GetString()).ShouldBe(texts);
            },
            iter: 60,
            threads: 1);
    }

    [Fact]
    public async Task Many_blocks_of_rows_with_long_and_short_texts_stay_in_their_order()
    {
        var pages = Enumerable.Range(0, 40).Select(page => string.Join('\n', Enumerable.Range(page * 500, 500).Select(row => $$"""{"n":{{row}},"t":"{{new string((char)('a' + (row % 26)), row % 40)}}","z":{{(row % 3 == 0 ? "null" : "\"x\"")}}}""")));
        await _fixture.StageAsync("t", pages);
        var lines = _fixture.Write("select * from t").Split("\r\n");
        lines.Length.ShouldBe(20_002);
        for (var row = 0; row < 20_000; row++)
            lines[row + 1].ShouldBe($"{row},{(row % 40 == 0 ? "\"\"" : new string((char)('a' + (row % 26)), row % 40))},{(row % 3 == 0 ? "" : "x")}");
    }

    [Fact]
    public void A_query_that_fails_half_way_is_told_and_a_result_may_be_left_half_read()
    {
        Should.Throw<ReportException>(() => _fixture.Write("select case when i = 9000 then error('half way') else i::varchar end as v from range(10000) r(i)")).Refusal.What.ShouldContain("half way");
        using (var rows = _fixture.Database.Query("select i::varchar from range(1000000) r(i)"))
        {
            for (var n = 0; n < 5000; n++)
                rows.Read().ShouldBeTrue();
        }

        _fixture.Write("select 1 as n").ShouldBe("n\r\n1\r\n");
    }

    private static string Sql(string[] texts) => "select " + string.Join(", ", texts.Select((text, place) => $"{Database.Literal(text)} as c{place}"));

    // ECMA-376 part 1, section 22.9.2.19.
    private static string Unescaped(string text) =>
        System.Text.RegularExpressions.Regex.Replace(text, "_x([0-9A-Fa-f]{4})_", match => ((char)Convert.ToInt32(match.Groups[1].Value, 16)).ToString());
}
