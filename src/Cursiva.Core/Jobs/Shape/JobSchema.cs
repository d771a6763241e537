using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.Core.Jobs.Shape;

/// <summary>The JSON Schema (2020-12) of the job file, for editors; made from <see cref="JobKeys"/>.</summary>
public static class JobSchema
{
    private static readonly JsonSerializerOptions s_indented = new()
    {
        WriteIndented = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private const string Age = @"([0-9]+\.?[0-9]*|\.[0-9]+)(ms|s|m|h|d|w)";
    private const string Percent = @"(100(\.0*)?|[0-9]{1,2}(\.[0-9]*)?)%";
    private const string Areas =
        "Africa|America|Antarctica|Arctic|Asia|Atlantic|Australia|Brazil|Canada|Chile|Etc|Europe|Indian|Mexico|Pacific|US";
    private const string ZonesWithoutArea =
        "CET|CST6CDT|Cuba|EET|EST|EST5EDT|Egypt|Eire|GB|GB-Eire|GMT|GMT0|Greenwich|HST|Hongkong|Iceland|Iran|Israel|Jamaica|Japan|Kwajalein|Libya|MET|MST|MST7MDT|NZ|NZ-CHAT|Navajo|PRC|PST8PDT|Poland|Portugal|ROC|ROK|Singapore|Turkey|UCT|UTC|Universal|W-SU|WET|Zulu";

    /// <summary>The schema of job files and of the files that they include, as text, ending with a line break.</summary>
    public static string Write() => new JsonObject
    {
        ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
        ["title"] = "Cursiva job file, or a file that jobs include",
        ["anyOf"] = new JsonArray(new JsonObject { ["$ref"] = "#/$defs/job" }, new JsonObject { ["$ref"] = "#/$defs/shared" }),
        ["$defs"] = new JsonObject { ["job"] = OfSection(JobKeys.JobSection), ["shared"] = OfSection(JobKeys.SharedSection) },
    }.ToJsonString(s_indented) + "\n";

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
        if (section.OneOf.Count > 0)
            schema["anyOf"] = new JsonArray(
                [.. section.OneOf.Select(key => new JsonObject { ["required"] = new JsonArray(JsonValue.Create(key.Name)) })]);
        return schema;
    }

    private static JsonObject OfKey(Key key) => key.Kind switch
    {
        KeyKind.Text or KeyKind.Path => Scalar(),
        KeyKind.Zone => Filled(key, Pattern($"^(({Areas})/[A-Za-z0-9_/+-]+|{ZonesWithoutArea})$")),
        KeyKind.Duration => Filled(key, Pattern($"^{Age}$")),
        KeyKind.Pointer => Pointer(),
        KeyKind.SecretSource => Source(),
        KeyKind.SecretSources => OneOrMany(Source()),
        KeyKind.Choices => OneOrMany(Filled(key, Choice(key.Choices))),
        KeyKind.Share => Filled(
            key, new JsonObject { ["type"] = "number", ["exclusiveMinimum"] = 0, ["maximum"] = 1 }, Pattern($"^(?!0*\\.?0*%$){Percent}$")),
        KeyKind.Choice => Filled(key, Choice(key.Choices)),
        KeyKind.Texts => OneOrMany(Scalar()),
        KeyKind.Rates => OneOrMany(Filled(key, Pattern($"^ *0*[1-9][0-9]{{0,6}} +per +(second|minute|hour|day|{Age}) *$"))),
        KeyKind.TextMap when key.NamesAreNumbers => MapOf(Scalar(), new JsonObject { ["pattern"] = "^[+-]?([0-9]+\\.?[0-9]*|\\.[0-9]+)$" }),
        KeyKind.TextMap => MapOf(Scalar()),
        KeyKind.Inputs => MapOf(AnyOf(Scalar(), OfSection(JobKeys.RelativeTimeSection))),
        KeyKind.Columns => MapOf(AnyOf(Filled(key, Choice(JobKeys.Type.Choices)), OfSection(JobKeys.ColumnSection))),
        KeyKind.Pointers => OneOrMany(Pointer()),
        KeyKind.TextsMap => MapOf(OneOrMany(Scalar())),
        KeyKind.Number => Filled(key, Whole(key.Least, key.Most), Digits()),
        KeyKind.Switch => Filled(key, new JsonObject { ["type"] = "boolean" }),
        KeyKind.Allowance => Filled(key, Whole(0, int.MaxValue), Digits(), Pattern($"^{Percent}$")),
        KeyKind.CountOrAge => Filled(
            key,
            Whole(1, int.MaxValue),
            Digits(),
            Pattern($"^(?![0.]+[a-z]){Age}$"),
            Pattern("^(?![0.]+ *[A-Z])[0-9]*\\.?[0-9]+ *[MGT]B$")),
        KeyKind.Anything => [],
        KeyKind.TextOrSection => AnyOf(Scalar(), OfSection(key.Inside!)),
        KeyKind.TextsOrSection => AnyOf(OneOrMany(Scalar()), OfSection(key.Inside!)),
        KeyKind.PointersOrSection => AnyOf(OneOrMany(Pointer()), OfSection(key.Inside!)),
        KeyKind.PointerOrSection => AnyOf(Pointer(), OfSection(key.Inside!)),
        KeyKind.SectionList => OneOrMany(OfSection(key.Inside!)),
        KeyKind.Section => OfSection(key.Inside!),
        KeyKind.Sections => MapOf(OfSection(key.Inside!)),
    };

    // What the value may be, or a text whose placeholders make it that.
    private static JsonObject Filled(Key key, params JsonObject[] values) =>
        key.IsFixed ? AnyOf(values) : AnyOf([.. values, Pattern(@"\{[^{}]+\}")]);

    private static JsonObject Whole(int least, int most) => new() { ["type"] = "integer", ["minimum"] = least, ["maximum"] = most };

    // A number in quotes; its bounds are left to the reader.
    private static JsonObject Digits() => Pattern("^[0-9]+$");

    private static JsonObject Scalar() => new() { ["type"] = new JsonArray("string", "number", "boolean") };

    private static JsonObject Pointer() => Pattern("^(/([^~]|~[01])*)?$");

    private static JsonObject Source() => Pattern("^(env|file|kept|systemd):.+$");

    private static JsonObject Pattern(string pattern) => new() { ["type"] = "string", ["pattern"] = pattern };

    // YAML reads 1 as a number, and editors check what YAML reads.
    private static JsonObject Choice(IReadOnlyList<string> choices) => new()
    {
        ["enum"] = new JsonArray(
            [.. choices.Select(
                choice => (JsonNode)(int.TryParse(choice, out var number) ? JsonValue.Create(number) : JsonValue.Create(choice)!))]),
    };

    private static JsonObject OneOrMany(JsonObject one) => AnyOf(one, new JsonObject { ["type"] = "array", ["items"] = one.DeepClone() });

    private static JsonObject MapOf(JsonObject value, JsonObject? names = null)
    {
        var map = new JsonObject { ["type"] = "object", ["additionalProperties"] = value };
        if (names is not null)
            map["propertyNames"] = names;
        return map;
    }

    private static JsonObject AnyOf(params JsonObject[] schemas) =>
        schemas is [var only] ? only : new() { ["anyOf"] = new JsonArray([.. schemas]) };
}
