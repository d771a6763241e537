using Cursiva.Core.Jobs.Shape;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Reads SQL together with where it stands.</summary>
internal sealed class SqlReader(Reading reading)
{
    /// <summary>The SQL of a key, inputs filled in; null when it is not there.</summary>
    public static SqlSource? Read(SectionReader section, Key key) =>
        section.Text(key) is { } text ? Source(section.File, section.Node(key)!, text) : null;

    /// <summary>The SQL of a node, inputs filled in; null when it is not text.</summary>
    public SqlSource? Read(YamlFile file, YamlNode node) =>
        node is YamlScalarNode { Value: { } text } ? Source(file, node, reading.Fill(text, file.At(node))) : null;

    // A block scalar begins on the line after its '|', indented by what its first line is indented by.
    private static SqlSource Source(YamlFile file, YamlNode node, string text)
    {
        var at = file.At(node);
        if (node is not YamlScalarNode { Style: ScalarStyle.Literal or ScalarStyle.Folded })
            return new SqlSource(text, at, -1);

        var lines = System.Text.Encoding.UTF8.GetString(file.Bytes).Split('\n');
        var first = at.Line;
        while (first < lines.Length && string.IsNullOrWhiteSpace(lines[first]))
            first++;
        var indent = first < lines.Length ? lines[first].Length - lines[first].TrimStart(' ').Length : 0;
        return new SqlSource(text, new Place(at.File, at.Line + 1, 1), indent);
    }
}
