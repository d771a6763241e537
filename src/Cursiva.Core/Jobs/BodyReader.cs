using System.Text.RegularExpressions;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>
/// Reads the body of a request: plain numbers, true, false and null are what they look like (YAML 1.2 core schema), everything quoted
/// is text. Inputs are filled in; names known later stay as placeholders.
/// </summary>
internal sealed partial class BodyReader(Reading reading, YamlFile file, Scope scope)
{
    public DeclaredBody Read(YamlNode node) => node switch
    {
        YamlMappingNode { Children: [{ Key: YamlScalarNode { Value: { } name }, Value: YamlScalarNode { Style: ScalarStyle.Plain, Value: null or "" } }] } mapping when scope.Knows(name) || reading.Inputs.ContainsKey(name) => Unquoted(
            mapping, name),
        YamlMappingNode mapping => new DeclaredBody.Group(
            [.. mapping.Children.Select(pair => KeyValuePair.Create((pair.Key as YamlScalarNode)?.Value ?? "", Read(pair.Value)))]),
        YamlSequenceNode sequence => new DeclaredBody.Items([.. sequence.Children.Select(Read)]),
        YamlScalarNode { Style: ScalarStyle.Plain, Value: null or "" or "~" or "null" } => new DeclaredBody.Plain("null"),
        YamlScalarNode { Style: ScalarStyle.Plain, Value: "true" or "false" } word => new DeclaredBody.Plain(word.Value),
        YamlScalarNode { Style: ScalarStyle.Plain, Value: { } number } when Number().IsMatch(number) => new DeclaredBody.Plain(number),
        YamlScalarNode { Value: { } text } => new DeclaredBody.Text(
            reading.Value(text, file.At(node), scope.Knows, scope.Hints) ?? DeclaredValue.OfText(text)),
        _ => new DeclaredBody.Plain("null"),
    };

    private DeclaredBody.Plain Unquoted(YamlNode node, string name)
    {
        reading.Add(
            file.At(node),
            $"{{{name}}} without quotes is a map to YAML",
            $"write \"{{{name}}}\"; alone in its quotes, it keeps the type it has in the row");
        return new DeclaredBody.Plain("null");
    }

    /// <summary>A number as JSON writes it; its digits stay as they are.</summary>
    [GeneratedRegex(@"^-?(0|[1-9][0-9]*)(\.[0-9]+)?([eE][-+]?[0-9]+)?$")]
    private static partial Regex Number();
}
