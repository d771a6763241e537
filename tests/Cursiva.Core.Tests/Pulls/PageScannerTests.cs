using System.Text;
using System.Text.Json;
using CsCheck;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;

namespace Cursiva.Core.Tests.Pulls;

public sealed class PageScannerTests
{
    [Theory]
    [InlineData("""{"items":[{"a":1},{"b":[1,{"c":"}"}]}],"page":{"cursor":"x","total":7}}""", "{\"a\":1}\n{\"b\":[1,{\"c\":\"}\"}]}\n", "x", 7L)]
    [InlineData("""{"page":{"cursor":"x\u0026y","total":"12"},"items":[{"a":"\\\""}]}""", "{\"a\":\"\\\\\\\"\"}\n", "x&y", 12L)]
    [InlineData("""{"it\u0065ms":[{"a":-1.5e+10}],"page":{"cursor":null}}""", "{\"a\":-1.5e+10}\n", null, null)]
    [InlineData("""{"items":[],"page":{"cursor":""}}""", "", null, null)]
    [InlineData("""{"items":null,"page":{"cursor":42}}""", "", "42", null)]
    [InlineData("""{"items":[{}],"page":false}""", "{}\n", null, null)]
    public void Rows_and_the_way_on_are_found(string page, string rows, string? next, long? total)
    {
        var (scan, lines) = Scan(page);
        lines.ShouldBe(rows);
        scan.Next.ShouldBe(next);
        scan.Total.ShouldBe(total);
    }

    [Fact]
    public void A_page_written_for_people_lands_compact_with_every_string_as_it_was()
    {
        var (scan, lines) = Scan("""
            {
              "items" : [
                { "a" : 1.10 , "b" : "two  words\n" } ,
                { "c" : [ 1 , { } , [ ] ] , "d" : "\\" }
              ]
            }
            """.ReplaceLineEndings("\r\n"));
        lines.ShouldBe("{\"a\":1.10,\"b\":\"two  words\\n\"}\n{\"c\":[1,{},[]],\"d\":\"\\\\\"}\n");
        scan.Rows.ShouldBe(2);
    }

    [Theory]
    [InlineData("", "empty")]
    [InlineData("""{"items":[{"a":1},]}""", "row 2 is not an object, at byte 19")]
    [InlineData("""{"items":[{"a":1,}]}""", "a name should be at byte 18")]
    [InlineData("""{"items":[{"a":01}]}""", "not a number, at byte 16")]
    [InlineData("""{"items":[{"a":1.}]}""", "not a number, at byte 16")]
    [InlineData("""{"items":[{"a":-}]}""", "not a number, at byte 16")]
    [InlineData("""{"items":[{"a":1e}]}""", "not a number")]
    [InlineData("""{"items":[{"a":tru}]}""", "neither true, false nor null")]
    [InlineData("""{"items":[{"a":nulll}]}""", "neither true, false nor null")]
    [InlineData("""{"items":[{"a":"x"y}]}""", "a comma or the end of the object should be at byte 19")]
    [InlineData("""{"items":[{"a" 1}]}""", "a colon should be")]
    [InlineData("""{"items":[{"a":1}]}}""", "the end of the page should be at byte 20")]
    [InlineData("""{"items":[{"a":1}""", "cut off after 17 bytes")]
    [InlineData("""{"items":[{"a":"x""", "ends inside a string")]
    [InlineData("""{"items":[{"a":"\x"}]}""", "an invalid escape, at byte 17")]
    [InlineData("""{"items":[{"a":"\u12"}]}""", "an invalid escape")]
    [InlineData("{\"items\":[{\"a\":\"\t\"}]}", "a control character inside a string, at byte 17")]
    [InlineData("{\"items\":[\u0001]}", "a control character, at byte 11")]
    [InlineData("""{"rows":[{"a":1}],"count":1}""", "the page has /rows, /count")]
    [InlineData("""[{"a":1}]""", "perhaps rows should be empty")]
    [InlineData("""{"items":{"a":1}}""", "is not an array")]
    [InlineData("""{"items":[1,2]}""", "row 1 is not an object")]
    [InlineData("""{"items":[],"items":[]}""", "rows twice")]
    public void What_is_wrong_is_told_with_its_place(string page, string message) =>
        Should.Throw<PageException>(() => Scan(page)).Message.ShouldContain(message);

    [Fact]
    public void Bytes_that_are_no_text_are_told_with_their_place()
    {
        using var scanner = new PageScanner(Shape);
        byte[] bytes = [.. "{\"items\":[{\"a\":\""u8, 0xC3, 0x28, .. "\"}]}"u8];
        Should.Throw<PageException>(() => scanner.Scan(PageBuffer.Of(bytes))).Message.ShouldContain("not UTF-8, at byte 17");
    }

    [Fact]
    public void Rows_nested_too_deeply_are_refused()
    {
        Scan("""{"items":[{"a":""" + new string('[', 63) + new string(']', 63) + "}]}").Scan.Rows.ShouldBe(1);
        Should.Throw<PageException>(() => Scan("""{"items":[{"a":""" + new string('[', 64) + new string(']', 64) + "}]}")).Message.ShouldContain("nested deeper than 64");
    }

    [Fact]
    public void The_grammar_is_exactly_that_of_JSON()
    {
        // A valid page with a few bytes changed: accepted by one reader exactly when accepted by the other.
        Gen.Select(Gen.Int[0, 400], Gen.Char["{}[]:,\"\\ \n\t0123456789.eE+-tfnulas\u0001é"], Gen.Bool, Pages).Array[1, 3].Sample(changes =>
        {
            var text = new StringBuilder(changes[0].Item4);
            foreach (var (place, c, insert, _) in changes)
            {
                var at = place % text.Length;
                if (!insert)
                    text.Remove(at, 1);
                text.Insert(at, c);
            }

            var page = text.ToString();
            var (accepted, lines) = TryScan("{\"items\":[{\"v\":" + page + "}]}");
            accepted.ShouldBe(IsJson("{\"items\":[{\"v\":" + page + "}]}"), page);
            if (accepted)
                lines.Split('\n', StringSplitOptions.RemoveEmptyEntries).ShouldAllBe(line => Compact(line) == line);
        }, iter: 20_000);
    }

    [Fact]
    public void Strings_of_any_length_and_place_come_through_every_block_boundary() =>
        Gen.Select(Gen.String[Gen.Char["ab\\\"{}[],: \u20ac"], 0, 200], Gen.Int[0, 130]).Sample((text, padding) =>
        {
            var row = JsonSerializer.Serialize(new { k = text });
            var (scan, lines) = Scan($"{{\"pad\":\"{new string('x', padding)}\",\"items\":[{row},{row}]}}");
            scan.Rows.ShouldBe(2);
            lines.ShouldBe(row + "\n" + row + "\n");
        }, iter: 5_000);

    private static PageShape Shape => PageShape.Of(JsonPointer.TryParse("/items")!, JsonPointer.TryParse("/page/cursor"), JsonPointer.TryParse("/page/total"));

    private static Gen<string> Pages => Gen.OneOf(Gen.Const(
        """{"a":[1,2.5,-0.1e-7,true,false,null],"b":{"c":"x\u00e9\n\"y\\","d":[]},"e":"é€","f":{}}"""),
        Gen.Const("""[[[],[{}]],"",{"":[0,-0,10]}]"""),
        Gen.Const(""" { "a" : [ 1 , "two" ] , "b" : null } """));

    private static (PageScan Scan, string Lines) Scan(string page)
    {
        using var scanner = new PageScanner(Shape);
        using var buffer = PageBuffer.Of(Encoding.UTF8.GetBytes(page));
        var scan = scanner.Scan(buffer);
        return (scan, Encoding.UTF8.GetString(scanner.Lines));
    }

    private static (bool Accepted, string Lines) TryScan(string page)
    {
        try
        {
            return (true, Scan(page).Lines);
        }
        catch (PageException)
        {
            return (false, "");
        }
    }

    private static string Compact(string json)
    {
        using var document = JsonDocument.Parse(json);
        return document.RootElement.GetRawText();
    }

    // A change may end the row early and begin another; every row must be an object then, too.
    private static bool IsJson(string page)
    {
        try
        {
            using var document = JsonDocument.Parse(page);
            return document.RootElement.GetProperty("items").EnumerateArray().All(row => row.ValueKind == JsonValueKind.Object);
        }
        catch (JsonException)
        {
            return false;
        }
    }
}
