using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;
using Cursiva.Core.Tests.Tables;

namespace Cursiva.Core.Tests.Reports;

/// <summary>What comes from an API comes out of every format as it was (promise 8).</summary>
public sealed class FidelityTests : IDisposable
{
    private const string Decimal30 = "123456789012345678901234567.891";
    private const string Id19 = "4100000000000000001";
    private const string Row = $$"""{"decimal":{{Decimal30}},"id":{{Id19}},"zeros":"0012","tiny":1e-7,"empty":"","nothing":null,"text":"é\n\"x\" 😀","yes":true,"list":[1,"a"]}""";
    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Fact]
    public async Task Texts_keep_every_digit_and_tell_null_from_empty()
    {
        await _fixture.StageAsync("t", [Row]);
        _fixture.Write("select * from t").ShouldBe($"decimal,id,zeros,tiny,empty,nothing,text,yes,list\r\n{Decimal30},{Id19},0012,1e-7,\"\",,\"é\n\"\"x\"\" 😀\",true,\"[1,\"\"a\"\"]\"\r\n");
        _fixture.Write("select * from t", "out.jsonl").ShouldBe(Row + "\n");
        _fixture.Write("select * from t", "out.json").ShouldBe($"[\n{Row}\n]\n");
        _fixture.Write("select * from t where false", "none.json").ShouldBe("[]\n");
    }

    [Fact]
    public async Task Parquet_keeps_every_digit_and_tells_null_from_empty()
    {
        await _fixture.StageAsync("t", [Row]);
        _fixture.Database.Confine(_fixture["work"]);
        _fixture.WriteFiles([ReportFixture.Table("select *, timestamp '2026-03-02 01:02:03.5' as at, date '2026-03-02' as day, 170141183460469231731::hugeint as huge from t")], ["out.parquet"]);
        var row = (await ReadBack.ParquetAsync(_fixture["out.parquet"])).ShouldHaveSingleItem();
        row["decimal"].ShouldBe(Decimal30);
        row["id"].ShouldBe(Id19);
        row["zeros"].ShouldBe("0012");
        row["tiny"].ShouldBe("1e-7");
        row["empty"].ShouldBe("");
        row["nothing"].ShouldBeNull();
        row["text"].ShouldBe("é\n\"x\" 😀");
        row["list"].ShouldBe("""[1,"a"]""");
        row["at"].ShouldBe("2026-03-02T01:02:03.5");
        row["huge"].ShouldBe("170141183460469231731");
        _fixture.Written.ShouldHaveSingleItem().Rows.ShouldBe(1);
        File.Exists(_fixture["work"]).ShouldBeFalse();
    }

    [Fact]
    public async Task Workbooks_have_typed_cells_and_texts_where_a_number_would_lose_digits()
    {
        await _fixture.StageAsync("t", [Row]);
        _fixture.WriteFiles([ReportFixture.Table("select *, 12.50::decimal(6,2) as price, 42 as n, timestamp '2026-03-02 06:00:00' as at, date '2026-03-02' as day, timestamp '2026-03-02 06:00:00.0000015' as exact, date '1899-01-01' as old from t")], ["out.xlsx"]);
        var cells = ReadBack.Xlsx(_fixture["out.xlsx"])[0].Cells;
        string[] names = ["decimal", "id", "zeros", "tiny", "empty", "nothing", "text", "yes", "list", "price", "n", "at", "day", "exact", "old"];
        XlsxValue? Cell(string name) => cells.GetValueOrDefault($"{XlsxSheet.Letters(Array.IndexOf(names, name))}2");
        names.Index().ShouldAllBe(name => cells[$"{XlsxSheet.Letters(name.Index)}1"].Value == name.Item);
        Cell("decimal").ShouldBe(new XlsxValue("text", Decimal30, "49"));
        Cell("id").ShouldBe(new XlsxValue("text", Id19, "49"));
        Cell("zeros").ShouldBe(new XlsxValue("text", "0012", "0"));
        Cell("tiny")!.Value.ShouldBe("1e-7");
        Cell("empty").ShouldBe(new XlsxValue("text", "", "0"));
        Cell("nothing").ShouldBeNull();
        Cell("text")!.Value.ShouldBe("é\n\"x\" 😀");
        Cell("yes").ShouldBe(new XlsxValue("boolean", "1", "0"));
        Cell("price").ShouldBe(new XlsxValue("number", "12.50", "0.00"));
        Cell("n").ShouldBe(new XlsxValue("number", "42", "1"));
        Cell("at").ShouldBe(new XlsxValue("number", "46083.291666666664", @"yyyy\-mm\-dd\ hh:mm:ss"));
        Cell("day").ShouldBe(new XlsxValue("number", "46083", @"yyyy\-mm\-dd"));
        Cell("exact")!.Value.ShouldBe("2026-03-02 07:00:00.000001");
        Cell("old")!.Value.ShouldBe("1899-01-01");
    }

    [Theory]
    [InlineData("0012", "=\"0012\"")]
    [InlineData("4100000000000000001", "=\"4100000000000000001\"")]
    [InlineData("1e-7", "=\"1e-7\"")]
    [InlineData("3-4", "=\"3-4\"")]
    [InlineData("=1+1", "'=1+1")]
    [InlineData("@sum", "'@sum")]
    [InlineData("-x", "'-x")]
    [InlineData("+x", "'+x")]
    [InlineData("\tx", "'\tx")]
    [InlineData("BFX-0012", "BFX-0012")]
    [InlineData("plain", "plain")]
    [InlineData("\n=1+1", "'\n'=1+1")]
    [InlineData("\r\n@x", "'\r\n'@x")]
    [InlineData(" \t=1", " \t'=1")]
    [InlineData("＝1+1", "'＝1+1")]
    [InlineData("＋x", "'＋x")]
    [InlineData("－x", "'－x")]
    [InlineData("＠x", "'＠x")]
    [InlineData("\u200B=1+1", "\u200B'=1+1")]
    [InlineData("a;=1+1", "a;'=1+1")]
    [InlineData("a;\"=1+1", "a;\"'=1+1")]
    [InlineData("a\n-x", "a\n'-x")]
    [InlineData("a, -x", "a, -x")]
    [InlineData("a-b; c", "a-b; c")]
    public void Spreadsheets_that_open_a_CSV_file_see_texts_as_they_are(string text, string written) =>
        _fixture.Write($"select '{text}' as \"Größe\"", csv: CsvForm.ForSpreadsheets).ShouldBe($"\uFEFF\"Größe\"\r\n{Quoted(written)}\r\n");

    [Fact]
    public void Numbers_that_a_spreadsheet_keeps_stay_numbers() =>
        _fixture.Write("select -5 as a, 1234567890123456789 as b, date '2026-03-02' as c, 0.1 as d", csv: CsvForm.ForSpreadsheets)
            .ShouldBe("\uFEFF\"a\",\"b\",\"c\",\"d\"\r\n-5,\"=\"\"1234567890123456789\"\"\",2026-03-02,0.1\r\n");

    [Fact]
    public void CSV_has_the_form_that_is_asked_for() =>
        _fixture.Write("select 1 as a, 'x;y' as b, 'p,q' as c", csv: new CsvForm(';', false, "\n", true, false)).ShouldBe("\uFEFF1;\"x;y\";p,q\n");

    // Every text, so that a spreadsheet which parts columns by another character leaves it whole.
    private static string Quoted(string text) => "\"" + text.Replace("\"", "\"\"") + "\"";

    [Theory]
    [InlineData("out.csv")]
    [InlineData("out.json")]
    [InlineData("out.jsonl")]
    [InlineData("out.parquet")]
    [InlineData("out.sqlite")]
    [InlineData("out.xlsx")]
    [InlineData("out.md")]
    [InlineData("out.html")]
    public async Task A_NUL_in_a_text_loses_no_report(string file)
    {
        await _fixture.StageAsync("odd", ["{\"t\":\"before\\u0000behind\",\"price\":9.5}", "{\"t\":\"x\",\"price\":100}"]);
        _fixture.WriteFiles([ReportFixture.Table("select * from odd")], [file]);
        var bytes = File.ReadAllBytes(_fixture[file]);
        if (file.EndsWith(".xlsx"))
        {
            var cells = ReadBack.Xlsx(_fixture[file])[0].Cells;
            cells["A2"].Value.ShouldBe("before_x0000_behind");
            (cells["B2"].Kind, cells["B2"].Value).ShouldBe((cells["B3"].Kind, "9.5"));
            cells["B2"].Kind.ShouldNotBe("text");
            return;
        }

        bytes.AsSpan().IndexOf("behind"u8).ShouldBePositive();
    }
}
