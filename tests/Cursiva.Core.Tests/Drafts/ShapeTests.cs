using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Drafts;
using Cursiva.Core.Refusals;
using Json.Schema;

namespace Cursiva.Core.Tests.Drafts;

/// <summary>Shapes, and schemas that what was seen fits.</summary>
public sealed class ShapeTests
{
    private const string Rows = """
        {"id":1,"at":"2026-03-02T08:00:00Z","day":"2026-03-02","price":1,"tags":["a"],"address":{"street":"Quay","post":null}}
        {"id":2,"at":"2026-03-02T08:00:00+01:00","day":"2026-03-03","price":1.5,"tags":[],"more":true}
        """;

    [Fact]
    public void A_schema_fits_what_was_seen_and_not_what_differs()
    {
        var schema = Shape.Of(Encoding.UTF8.GetBytes(Rows), "rows").Schema("rows");
        var told = JsonDocument.Parse(schema).RootElement;
        told.GetProperty("$schema").GetString().ShouldBe("https://json-schema.org/draft/2020-12/schema");
        told.GetProperty("required").EnumerateArray().Select(name => name.GetString()).ShouldBe(["id", "at", "day", "price", "tags"]);
        told.GetProperty("properties").GetProperty("at").GetProperty("format").GetString().ShouldBe("date-time");
        told.GetProperty("properties").GetProperty("price").GetProperty("type").GetString().ShouldBe("number");
        var read = JsonSchema.FromText(schema);
        foreach (var row in Rows.Split('\n'))
            read.Evaluate(JsonDocument.Parse(row).RootElement).IsValid.ShouldBeTrue(row);
        read.Evaluate(JsonDocument.Parse("""{"id":"one","at":"2026-03-02T08:00:00Z","day":"2026-03-02","price":1,"tags":[]}""").RootElement).IsValid.ShouldBeFalse();
        read.Evaluate(JsonDocument.Parse("""{"id":1}""").RootElement).IsValid.ShouldBeFalse();
    }

    [Fact]
    public void The_tree_counts_how_often_members_are_there()
    {
        var root = Shape.Of(Encoding.UTF8.GetBytes(Rows), "rows").Root;
        root.Seen.ShouldBe(2);
        root.Members.ToDictionary(member => member.Key, member => member.Value.Seen).ShouldBe(new Dictionary<string, long> { ["id"] = 2, ["at"] = 2, ["day"] = 2, ["price"] = 2, ["tags"] = 2, ["address"] = 1, ["more"] = 1 });
        root.Members[3].Value.Kinds.Keys.ShouldBe(["integer", "number"]);
        root.Members[4].Value.Items!.Examples.ShouldBe(["a"]);
    }

    [Fact]
    public void What_is_no_json_is_refused() =>
        Should.Throw<RefusedException>(() => Shape.Of("a,b\n1,2"u8, "file.csv")).Refusal.What.ShouldBe("file.csv is neither JSON nor JSON lines");
}
