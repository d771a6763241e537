using System.Text;
using System.Text.Json;
using CsCheck;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>Rows out of streams, out of other forms than arrays, and values out of rows.</summary>
public sealed class PieceTests
{
    [Fact]
    public void A_stream_is_cut_into_whole_rows_wherever_its_bytes_are_split() =>
        Gen.Select(Gen.String[Gen.Char["ab\\\"{}[],: \n\u20ac"], 0, 40].Array[0, 30], Gen.Int[1, 37], Gen.Bool, Gen.Int[1, 200]).Sample((texts, step, lines, target) =>
        {
            List<string> rows = [.. texts.Select(text => JsonSerializer.Serialize(new { k = text, n = new[] { 1, 2 } }))];
            var stream = Encoding.UTF8.GetBytes(lines ? string.Join('\n', rows) + "\n \r\n" : " [" + string.Join(" ,\n", rows) + "] ");
            var splitter = new StreamSplitter(lines ? StreamForm.Lines : StreamForm.Array, target, 1024 * 1024);
            var found = new List<string>();
            for (var at = 0; at < stream.Length; at += step)
            {
                splitter.Add(stream.AsSpan(at, Math.Min(step, stream.Length - at)));
                while (splitter.Next() is { } piece)
                    found.AddRange(Rows(piece));
            }

            if (splitter.TakeLast() is { } last)
                found.AddRange(Rows(last));
            found.ShouldBe(rows);
        }, iter: 2_000);

    [Theory]
    [InlineData("""[{"a":1},{"b":""")]
    [InlineData("""{"a":1}""")]
    [InlineData("""[{"a":1}] [""")]
    [InlineData("""[{"a":1}] x""")]
    [InlineData("")]
    public void A_stream_that_is_no_array_or_is_cut_off_is_refused(string text)
    {
        var splitter = new StreamSplitter(StreamForm.Array, 1, 1024);
        Should.Throw<PageException>(() =>
        {
            splitter.Add(Encoding.UTF8.GetBytes(text));
            while (splitter.Next() is { } piece)
                piece.Dispose();
            splitter.TakeLast();
        });
    }

    [Fact]
    public void A_row_without_an_end_is_refused_before_it_fills_the_memory()
    {
        var splitter = new StreamSplitter(StreamForm.Lines, 10, 1000);
        Should.Throw<PageException>(() =>
        {
            for (var i = 0; i < 100; i++)
                splitter.Add(new byte[100].Select(_ => (byte)'x').ToArray());
        }).Message.ShouldContain("a row is larger than");
    }

    [Theory]
    [InlineData("/phone", """{"a":{"phone":1,"b":[{"phone":2}]},"x":1}""")]
    [InlineData("/a/phone", """{"phone":0,"a":{"b":[{"phone":2}]},"x":1}""")]
    [InlineData("/a/b/0/phone", """{"phone":0,"a":{"phone":1,"b":[{}]},"x":1}""")]
    [InlineData("/a/b/0", """{"phone":0,"a":{"phone":1,"b":[]},"x":1}""")]
    [InlineData("/a|/x", """{"phone":0}""")]
    [InlineData("/nothing", """{"phone":0,"a":{"phone":1,"b":[{"phone":2}]},"x":1}""")]
    public void Dropped_places_are_gone_and_all_else_stays(string drop, string expected)
    {
        const string Page = """[ {"phone": 0, "a" : {"phone":1, "b": [ {"phone":2} ]}, "x":1} ]""";
        Scan(Page, new PageShape(new RowSource(RowsForm.Array, At("")), [.. drop.Split('|').Select(At)], Paging.OnePage)).ShouldBe([expected]);
    }

    [Fact]
    public void A_name_that_is_written_with_escapes_is_dropped_all_the_same() =>
        Scan("""[{"ph\u006fne":1,"b":2}]""", new PageShape(new RowSource(RowsForm.Array, At("")), [At("/phone")], Paging.OnePage)).ShouldBe(["""{"b":2}"""]);

    [Theory]
    [InlineData("/a", "1")]
    [InlineData("/b/c", "\"x\"")]
    [InlineData("/d/1", "[3]")]
    [InlineData("/e", "2")]
    [InlineData("/a~1b", "7")]
    [InlineData("/none", "")]
    [InlineData("/d/9", "")]
    public void A_value_is_found_by_its_place(string at, string raw) =>
        Encoding.UTF8.GetString(JsonFind.Raw("""{"a":1,"b":{"c":"x"},"d":[2,[3]],"e":1,"e":2,"a/b":7}"""u8, At(at))).ShouldBe(raw);

    [Theory]
    [InlineData("9", "10", "10")]
    [InlineData("-1", "-2", "-1")]
    [InlineData("2026-03-02T08:00:00Z", "2026-03-02T09:30:00+02:00", "2026-03-02T08:00:00Z")]
    [InlineData("b", "a", "b")]
    [InlineData(null, "a", "a")]
    public void Marks_are_compared_as_what_they_are(string? one, string? other, string higher)
    {
        Marks.Higher(one, other).ShouldBe(higher);
        Marks.Higher(other, one).ShouldBe(higher);
    }

    [Theory]
    [InlineData("2026-03-02T08:00:00Z", "10m", "2026-03-02T07:50:00Z")]
    [InlineData("1000", "5", "995")]
    [InlineData("abc", "5", "abc")]
    [InlineData("abc", null, "abc")]
    public void An_overlap_goes_back_behind_the_mark(string mark, string? overlap, string from) => Marks.From(mark, overlap).ShouldBe(from);

    [Fact]
    public void CSV_is_read_with_its_quotes_and_refused_where_a_line_has_other_fields()
    {
        CsvRows.Read(new StringReader("id,name\r\n1,\"a \"\"b\"\", c\"\r\n\r\n2,\r\n")).Select(row => row.ToJsonString()).ShouldBe(["""{"id":"1","name":"a \u0022b\u0022, c"}""", """{"id":"2","name":""}"""]);
        Should.Throw<PageException>(() => CsvRows.Read(new StringReader("id,name\n1,2,3\n")).ToList()).Message.ShouldContain("line 2 has 3 fields, but the header has 2");
        CsvRows.Read(new StringReader("")).ShouldBeEmpty();
    }

    private static JsonPointer At(string text) => JsonPointer.TryParse(text)!;

    private static List<string> Rows(PageBuffer piece)
    {
        using (piece)
        {
            using var scanner = new PageScanner(new PageShape(new RowSource(RowsForm.Array, At("")), [], Paging.OnePage));
            scanner.Scan(piece);
            return [.. Encoding.UTF8.GetString(scanner.Lines).Split('\n', StringSplitOptions.RemoveEmptyEntries)];
        }
    }

    private static List<string> Scan(string page, PageShape shape)
    {
        using var buffer = PageBuffer.Of(Encoding.UTF8.GetBytes(page));
        using var scanner = new PageScanner(shape);
        scanner.Scan(buffer);
        return [.. Encoding.UTF8.GetString(scanner.Lines).Split('\n', StringSplitOptions.RemoveEmptyEntries)];
    }
}
