using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Drafts;

/// <summary>The shape of answers or rows: their members as a tree, and a JSON Schema (2020-12) that every one of them fits.</summary>
/// <param name="Root">What was seen at the top.</param>
public sealed record Shape(ShapeNode Root)
{
    /// <summary>The dialect of the schema.</summary>
    public const string Dialect = "https://json-schema.org/draft/2020-12/schema";

    /// <summary>The shape of one answer, or of each line of JSON lines.</summary>
    /// <exception cref="RefusedException">It is neither.</exception>
    public static Shape Of(ReadOnlySpan<byte> answer, string name)
    {
        var root = new ShapeNode();
        if (SampleRows.Parse(answer.ToArray()) is { } json)
            root.See(json);
        else if (SampleRows.OfLines(answer) is { } lines)
            lines.ToList().ForEach(root.See);
        else
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"{name} is neither JSON nor JSON lines")
                {
                    NextStep = "use an unchanged answer of the API, for instance from cursiva call URL --to FILE",
                });
        return new Shape(root);
    }

    /// <summary>The shape of landed rows.</summary>
    public static Shape Of(LandedRows rows, CancellationToken cancel)
    {
        var root = new ShapeNode();
        rows.Read((_, lines) =>
        {
            while (!lines.IsEmpty)
            {
                var end = lines.IndexOf((byte)'\n');
                var line = end < 0 ? lines : lines[..end];
                if (line.Length > 0 && SampleRows.Parse(line.ToArray()) is { } row)
                    root.See(row);
                lines = end < 0 ? default : lines[(end + 1)..];
            }
        }, cancel);
        return new Shape(root);
    }

    /// <summary>The JSON Schema: members that were always there are required, and nothing is forbidden that was not seen.</summary>
    public string Schema(string title)
    {
        var schema = new JsonObject { ["$schema"] = Dialect, ["title"] = title };
        foreach (var (name, value) in SchemaOf(Root))
            schema[name] = value?.DeepClone();
        return schema.ToJsonString(
            new JsonSerializerOptions
            {
                WriteIndented = true,
                Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
            });
    }

    private static JsonObject SchemaOf(ShapeNode node)
    {
        var schema = new JsonObject();
        List<string> types = [.. node.Kinds.Keys.Where(kind => kind != "integer" || !node.Kinds.ContainsKey("number"))];
        if (types.Count > 0)
            schema["type"] = types.Count == 1 ? types[0] : new JsonArray([.. types.Select(type => JsonValue.Create(type))]);
        if (node.Format is { } format)
            schema["format"] = format;
        if (node.Members.Count > 0)
        {
            schema["properties"] = new JsonObject(
                node.Members.Select(member => KeyValuePair.Create(member.Key, (JsonNode?)SchemaOf(member.Value))));
            var objects = node.Kinds["object"];
            JsonNode?[] required = [.. node.Members.Where(member => member.Value.Seen >= objects).Select(
                member => JsonValue.Create(member.Key))];
            if (required.Length > 0)
                schema["required"] = new JsonArray(required);
        }

        if (node.Items is { Seen: > 0 } items)
            schema["items"] = SchemaOf(items);
        return schema;
    }
}
