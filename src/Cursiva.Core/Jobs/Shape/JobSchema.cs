using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.Core.Jobs.Shape;

/// <summary>The JSON Schema (2020-12) of the job file, for editors; made from <see cref="JobKeys"/>.</summary>
public static class JobSchema
{
    private static readonly JsonSerializerOptions s_indented = new() { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>The schema as text, ending with a line break.</summary>
    public static string Write()
    {
        var schema = new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["title"] = "Cursiva job file",
        };
        foreach (var (name, value) in OfSection(JobKeys.JobSection))
            schema[name] = value?.DeepClone();
        return schema.ToJsonString(s_indented) + "\n";
    }

    private static JsonObject OfSection(Section section)
    {
        var properties = new JsonObject();
        foreach (var key in section.Keys)
        {
            var value = OfKey(key);
            value["description"] = key.Otherwise is null ? key.Meaning : $"{key.Meaning}; otherwise: {key.Otherwise}";
            properties[key.Name] = value;
        }

        var schema = new JsonObject
        {
            ["description"] = section.Meaning,
            ["type"] = "object",
            ["additionalProperties"] = false,
            ["properties"] = properties,
        };
        var required = section.Keys.Where(key => key.Required).Select(key => key.Name).ToArray();
        if (required.Length > 0)
            schema["required"] = new JsonArray([.. required.Select(name => JsonValue.Create(name))]);
        return schema;
    }

    private static JsonObject OfKey(Key key) => key.Kind switch
    {
        KeyKind.Text or KeyKind.Path or KeyKind.Zone => Scalar(),
        KeyKind.Duration => Pattern(@"^[0-9.]+(ms|s|m|h|d|w)$"),
        KeyKind.Pointer => Pointer(),
        KeyKind.SecretSource => Source(),
        KeyKind.SecretSources => OneOrMany(Source()),
        KeyKind.Choices => OneOrMany(Choice(key.Choices)),
        KeyKind.Share => new JsonObject { ["type"] = new JsonArray("string", "number") },
        KeyKind.Count => new JsonObject { ["type"] = "integer", ["minimum"] = 1, ["maximum"] = 100 },
        KeyKind.Size => new JsonObject { ["type"] = "integer", ["minimum"] = 1, ["maximum"] = 1024 },
        KeyKind.Choice => Choice(key.Choices),
        KeyKind.Texts => OneOrMany(Scalar()),
        KeyKind.Rates => OneOrMany(Pattern("^[0-9]+ per .+$")),
        KeyKind.TextMap => MapOf(Scalar()),
        KeyKind.Inputs => MapOf(AnyOf(Scalar(), OfSection(JobKeys.RelativeTimeSection))),
        KeyKind.Columns => MapOf(AnyOf(Choice(JobKeys.Type.Choices), OfSection(JobKeys.ColumnSection))),
        KeyKind.Pointers => OneOrMany(Pointer()),
        KeyKind.TextsMap => MapOf(OneOrMany(Scalar())),
        KeyKind.Number => new JsonObject { ["type"] = "integer", ["minimum"] = 0 },
        KeyKind.Switch => new JsonObject { ["type"] = "boolean" },
        KeyKind.Allowance => AnyOf(new JsonObject { ["type"] = "integer", ["minimum"] = 0 }, Pattern("^[0-9.]+%?$")),
        KeyKind.Anything => [],
        KeyKind.TextOrSection => AnyOf(Scalar(), OfSection(key.Inside!)),
        KeyKind.PointersOrSection => AnyOf(OneOrMany(Pointer()), OfSection(key.Inside!)),
        KeyKind.PointerOrSection => AnyOf(Pointer(), OfSection(key.Inside!)),
        KeyKind.SectionList => OneOrMany(OfSection(key.Inside!)),
        KeyKind.Section => OfSection(key.Inside!),
        KeyKind.Sections => MapOf(OfSection(key.Inside!)),
    };

    private static JsonObject Scalar() => new() { ["type"] = new JsonArray("string", "number", "boolean") };

    private static JsonObject Pointer() => Pattern("^(/([^~]|~[01])*)?$");

    private static JsonObject Source() => Pattern("^(env|file|kept|systemd):.+$");

    private static JsonObject Pattern(string pattern) => new() { ["type"] = "string", ["pattern"] = pattern };

    // YAML reads 1 as a number, and editors check what YAML reads.
    private static JsonObject Choice(IReadOnlyList<string> choices) => new()
    {
        ["enum"] = new JsonArray([.. choices.Select(choice => (JsonNode)(int.TryParse(choice, out var number) ? JsonValue.Create(number) : JsonValue.Create(choice)!))]),
    };

    private static JsonObject OneOrMany(JsonObject one) => AnyOf(one, new JsonObject { ["type"] = "array", ["items"] = one.DeepClone() });

    private static JsonObject MapOf(JsonObject value) => new() { ["type"] = "object", ["additionalProperties"] = value };

    private static JsonObject AnyOf(params JsonObject[] schemas) => new() { ["anyOf"] = new JsonArray([.. schemas]) };
}
