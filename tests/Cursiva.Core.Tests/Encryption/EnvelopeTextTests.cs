using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Encryption;

/// <summary>The text of an envelope is found as a reader of JSON would find it, wherever it stands and whatever stands beside it.</summary>
public sealed class EnvelopeTextTests
{
    private static readonly JsonSerializerOptions s_indented = new() { WriteIndented = true };

    [Theory]
    [InlineData("""{"data":"abc"}""", "/data", "abc")]
    [InlineData(""" { "status" : 1 , "data" : "a\u002Bb\/c\\d\"e" } """, "/data", "a+b/c\\d\"e")]
    [InlineData("""{"x":{"data":"no","y":["}",{"a":"]"}]},"data":"yes"}""", "/data", "yes")]
    [InlineData("""{"x":{"data":"in"},"data":"out"}""", "/x/data", "in")]
    [InlineData("""{"list":["a","b,]",{"c":"d"}]}""", "/list/1", "b,]")]
    [InlineData("""{"list":["a","b",{"c":"d"}]}""", "/list/2/c", "d")]
    [InlineData("""{"data":"first","data":"last"}""", "/data", "last")]
    [InlineData("""{"d\u0061ta":"escaped"}""", "/data", "escaped")]
    [InlineData("""{"a/b":{"~":"odd"}}""", "/a~1b/~0", "odd")]
    [InlineData("""{"data":""}""", "/data", "")]
    [InlineData("""{"data":7}""", "/data", "")]
    [InlineData("""{"data":null,"other":"x"}""", "/data", "")]
    [InlineData("""{"other":"data","x":"y"}""", "/data", "")]
    [InlineData("""{"data":{"data":"deep"}}""", "/data", "")]
    [InlineData("""[1,"two"]""", "/1", "two")]
    [InlineData("""{"data":"caf\u00e9"}""", "/data", "café")]
    public void A_text_is_found(string json, string at, string text) =>
        Encoding.UTF8.GetString(EnvelopeText.Find(Encoding.UTF8.GetBytes(json), JsonPointer.TryParse(at)!)).ShouldBe(text);

    [Theory]
    [InlineData("")]
    [InlineData("{")]
    [InlineData("{\"data")]
    [InlineData("{\"data\":")]
    [InlineData("{\"data\":\"a\\")]
    [InlineData("{\"data\" \"x\"}")]
    [InlineData("{,,,}")]
    [InlineData("[[[[")]
    [InlineData("}{")]
    [InlineData("not json")]
    public void What_is_cut_or_no_JSON_ends(string json)
    {
        Should.NotThrow(() => EnvelopeText.Find(Encoding.UTF8.GetBytes(json), JsonPointer.TryParse("/data")!).Length);
        for (var length = 0; length < 40; length++)
        {
            var whole = Encoding.UTF8.GetBytes("""{"a":[1,{"b":"}"}],"data":"x\u002By","c":null}""");
            Should.NotThrow(() => EnvelopeText.Find(whole.AsSpan(0, length), JsonPointer.TryParse("/data")!).Length);
        }
    }

    [Fact]
    public void It_agrees_with_a_reader_of_JSON_on_random_documents()
    {
        var random = new Random(7);
        for (var i = 0; i < 2000; i++)
        {
            var document = new JsonObject { ["data"] = Text(random), ["x"] = Node(random, 3), ["y"] = new JsonObject { ["data"] = Text(random), ["z"] = Node(random, 2) } };
            var json = JsonSerializer.SerializeToUtf8Bytes(document, i % 2 == 0 ? s_indented : JsonSerializerOptions.Default);
            Encoding.UTF8.GetString(EnvelopeText.Find(json, JsonPointer.TryParse("/data")!)).ShouldBe(document["data"]!.ToString());
            Encoding.UTF8.GetString(EnvelopeText.Find(json, JsonPointer.TryParse("/y/data")!)).ShouldBe(document["y"]!["data"]!.ToString());
        }
    }

    private static string Text(Random random) => string.Concat(Enumerable.Range(0, random.Next(12)).Select(_ => "ab+/=\"\\{}[],:\n\té"[random.Next(16)]));

    private static JsonNode? Node(Random random, int depth) => random.Next(depth > 0 ? 5 : 3) switch
    {
        0 => null,
        1 => random.Next(),
        2 => Text(random),
        3 => new JsonArray([.. Enumerable.Range(0, random.Next(4)).Select(_ => Node(random, depth - 1))]),
        _ => new JsonObject { [Text(random) + "1"] = Node(random, depth - 1), ["data"] = Node(random, depth - 1) },
    };
}
