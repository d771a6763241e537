using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>
/// YAML as JSON: plain numbers, true, false and null are what they look like (YAML 1.2 core schema), everything quoted is text.
/// Inputs are filled in; names known later stay as placeholders.
/// </summary>
internal sealed partial class YamlJson(Reading reading, YamlFile file, Func<string, bool> isLater, IReadOnlyList<string> hints)
{
    public JsonNode? Read(YamlNode node) => node switch
    {
        YamlMappingNode mapping => new JsonObject(mapping.Children.Select(pair => KeyValuePair.Create((pair.Key as YamlScalarNode)?.Value ?? "", Read(pair.Value)))),
        YamlSequenceNode sequence => new JsonArray([.. sequence.Children.Select(Read)]),
        YamlScalarNode { Value: null } => null,
        YamlScalarNode { Style: ScalarStyle.Plain, Value: "" or "~" or "null" } => null,
        YamlScalarNode { Style: ScalarStyle.Plain, Value: "true" } => JsonValue.Create(true),
        YamlScalarNode { Style: ScalarStyle.Plain, Value: "false" } => JsonValue.Create(false),
        YamlScalarNode { Style: ScalarStyle.Plain, Value: { } number } when Number().IsMatch(number) => JsonNode.Parse(number),
        YamlScalarNode { Value: { } text } => JsonValue.Create(reading.FillBut(text, file.At(node), isLater, hints)?.Text ?? text),
        _ => null,
    };

    /// <summary>A number as JSON writes it; its digits stay as they are.</summary>
    [GeneratedRegex(@"^-?(0|[1-9][0-9]*)(\.[0-9]+)?([eE][-+]?[0-9]+)?$")]
    private static partial Regex Number();
}
