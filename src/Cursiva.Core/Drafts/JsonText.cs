using System.Text.Json.Nodes;

namespace Cursiva.Core.Drafts;

/// <summary>JSON as it stands in a job: YAML takes it as it is (YAML 1.2.2 section 1.3), but braces inside texts are filled in.</summary>
internal static class JsonText
{
    /// <summary>JSON on one line, the braces of its texts doubled.</summary>
    /// <exception cref="System.Text.Json.JsonException">It is not JSON.</exception>
    public static string Literal(string json) => Of(JsonNode.Parse(json));

    /// <summary>Every text in it.</summary>
    /// <exception cref="System.Text.Json.JsonException">It is not JSON.</exception>
    public static IEnumerable<string> Texts(string json) => TextsOf(JsonNode.Parse(json));

    private static IEnumerable<string> TextsOf(JsonNode? node) => node switch
    {
        JsonObject members => members.SelectMany(pair => TextsOf(pair.Value)),
        JsonArray items => items.SelectMany(TextsOf),
        JsonValue value when value.TryGetValue<string>(out var text) => [text],
        _ => [],
    };

    private static string Of(JsonNode? node) => node switch
    {
        JsonObject members => $"{{ {string.Join(", ", members.Select(pair => $"{YamlText.Quoted(pair.Key)}: {Of(pair.Value)}"))} }}",
        JsonArray items => $"[{string.Join(", ", items.Select(Of))}]",
        JsonValue value when value.TryGetValue<string>(out var text) => YamlText.Quoted(
            text.Replace("{", "{{", StringComparison.Ordinal).Replace("}", "}}", StringComparison.Ordinal)),
        null => "null",
        _ => node.ToJsonString(),
    };
}
