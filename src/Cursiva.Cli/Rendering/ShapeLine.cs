using Cursiva.Core.Drafts;

namespace Cursiva.Cli.Rendering;

/// <summary>A place of a shape, as JSON has it.</summary>
/// <param name="Place">A JSON Pointer, <c>*</c> for the items of an array.</param>
/// <param name="Types">The kinds that were seen there, by the names of JSON Schema.</param>
/// <param name="Seen">How often something was there.</param>
/// <param name="Of">How often it could have been.</param>
internal sealed record ShapeLine(string Place, IReadOnlyList<string> Types, long Seen, long Of, IReadOnlyList<string> Examples)
{
    /// <summary>Every place, outer ones before what they have inside.</summary>
    public static IEnumerable<ShapeLine> All(ShapeNode node) =>
        [new ShapeLine("", Typed(node), node.Seen, node.Seen, node.Examples), .. Inside(node, "")];

    private static IEnumerable<ShapeLine> Inside(ShapeNode node, string at)
    {
        foreach (var (name, member) in node.Members)
        {
            var place = $"{at}/{name.Replace("~", "~0", StringComparison.Ordinal).Replace("/", "~1", StringComparison.Ordinal)}";
            yield return new ShapeLine(place, Typed(member), member.Seen, node.Kinds["object"], member.Examples);
            foreach (var inner in Inside(member, place))
                yield return inner;
        }

        if (node.Items is not { Seen: > 0 } items)
            yield break;
        yield return new ShapeLine(at + "/*", Typed(items), items.Seen, items.Seen, items.Examples);
        foreach (var inner in Inside(items, at + "/*"))
            yield return inner;
    }

    private static List<string> Typed(ShapeNode node) =>
        [.. node.Kinds.Keys.Select(kind => kind == "string" && node.Format is { } format ? format : kind)];
}
