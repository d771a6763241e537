using YamlDotNet.Core;
using YamlDotNet.Core.Events;

namespace Cursiva.Core.Jobs;

/// <summary>
/// Looks over the events of a YAML file before it becomes nodes: aliases that lead back to themselves or multiply, and nesting that would
/// take the reader's stack, are mistakes and nothing worse.
/// </summary>
internal static class YamlGuard
{
    public const int LargestFile = 4 * 1024 * 1024;

    private const int MostNodes = 200_000;
    private const int Deepest = 64;

    /// <summary>What is wrong, and where; null when the file may be read.</summary>
    /// <exception cref="YamlException">It is not YAML.</exception>
    public static (Mark Place, string Found)? Look(TextReader text)
    {
        var parser = new Parser(text);
        var sizes = new Dictionary<AnchorName, long?>();
        var open = new Stack<(AnchorName Anchor, long Before)>();
        long nodes = 0;
        while (parser.MoveNext())
        {
            switch (parser.Current)
            {
                case AnchorAlias alias:
                    if (!sizes.TryGetValue(alias.Value, out var size))
                        return (alias.Start, $"the alias *{alias.Value} has no anchor above it");
                    if (size is null)
                        return (alias.Start, $"the alias *{alias.Value} is inside its own anchor");
                    nodes += size.Value;
                    break;
                case MappingStart or SequenceStart:
                    var begun = (NodeEvent)parser.Current;
                    open.Push((begun.Anchor, nodes++));
                    if (!begun.Anchor.IsEmpty)
                        sizes[begun.Anchor] = null;
                    if (open.Count > Deepest)
                        return (begun.Start, $"more than {Deepest} levels are nested here");
                    break;
                case MappingEnd or SequenceEnd:
                    var (anchor, before) = open.Pop();
                    if (!anchor.IsEmpty)
                        sizes[anchor] = nodes - before;
                    break;
                case Scalar scalar:
                    nodes++;
                    if (!scalar.Anchor.IsEmpty)
                        sizes[scalar.Anchor] = 1;
                    break;
                default:
                    break;
            }

            if (nodes > MostNodes)
                return (parser.Current!.Start, $"the file has more than {MostNodes:N0} values with its aliases expanded");
        }

        return null;
    }
}
