using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using YamlDotNet.Core.Events;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Drafts;

/// <summary>
/// Brings the columns of a job's pull up to what landed: those that are new are added, and the file stays as it is otherwise.
/// </summary>
/// <param name="Text">The job file, changed.</param>
/// <param name="Added">The columns that are new.</param>
/// <param name="Unseen">Declared columns that no row has.</param>
public sealed record ColumnsUpdate(string Text, IReadOnlyList<string> Added, IReadOnlyList<string> Unseen)
{
    /// <summary>Makes the change; nothing is written.</summary>
    /// <param name="path">The job file.</param>
    /// <param name="rows">The landed rows of the pull.</param>
    /// <exception cref="RefusedException">The pull or its columns stand on one line in braces, where nothing can be added without rewriting
    /// it.</exception>
    public static ColumnsUpdate Of(string path, Pull pull, LandedRows rows, CancellationToken cancel)
    {
        var found = ColumnSearch.In(Rows(rows, cancel));
        var places = pull.Columns.Select(column => column.At.Text).ToHashSet(StringComparer.Ordinal);
        var names = pull.Columns.Select(column => column.Name).ToHashSet(StringComparer.OrdinalIgnoreCase);
        List<DraftedColumn> added = [.. found.Where(column => !places.Contains(column.At.Text) && !names.Contains(column.Name))];
        List<string> unseen = [.. pull.Columns
            .Where(
                column => found.All(
                    other => other.At.Text != column.At.Text && !other.At.Text.StartsWith(column.At.Text + "/", StringComparison.Ordinal)))
            .Select(column => column.Name)];
        var text = File.ReadAllText(path);
        if (added.Count == 0)
            return new ColumnsUpdate(text, [], unseen);
        var (line, indent, head) = PlaceFor(path, text, pull.Name, added);
        List<string> lines = [.. text.Split('\n')];
        var insert = new StringBuilder(head);
        foreach (var column in added)
            AskedJob.Line(insert, indent, (column.Yaml, column.Words));
        lines.InsertRange(line, insert.ToString().TrimEnd('\n').Split('\n'));
        return new ColumnsUpdate(string.Join('\n', lines), [.. added.Select(column => column.Name)], unseen);
    }

    private static IEnumerable<System.Text.Json.JsonElement> Rows(LandedRows rows, CancellationToken cancel)
    {
        var seen = new List<byte[]>();
        rows.Read(
            (_, lines) => seen.AddRange(
                Encoding.UTF8
                    .GetString(lines)
                    .Split('\n', StringSplitOptions.RemoveEmptyEntries)
                    .Take(20_000 - Math.Min(20_000, seen.Count))
                    .Select(Encoding.UTF8.GetBytes)),
            cancel);
        return SampleRows.Of(seen);
    }

    // Behind the last column, or behind the last key of the pull: the number of lines before it, and how far the columns are indented.
    private static (int Line, int Indent, string Head) PlaceFor(string path, string text, string pullName, List<DraftedColumn> added)
    {
        var root = YamlFile.Of(path, Encoding.UTF8.GetBytes(text), []).Root!;
        var pull = root.Children.TryGetValue(new YamlScalarNode(JobKeys.Pulls.Name), out var pulls)
            && pulls is YamlMappingNode all
            && all.Children.TryGetValue(
            new YamlScalarNode(pullName), out var node)
            ? node as YamlMappingNode
            : null;
        if (pull is null || pull.Style == MappingStyle.Flow)
            throw InBraces(path, $"the pull '{pullName}'", added);
        if (!pull.Children.TryGetValue(new YamlScalarNode(PullKeys.Columns.Name), out var columns))
        {
            var key = (int)pull.Children.First().Key.Start.Column - 1;
            return (LastLine(pull), key + 2, $"{new string(' ', key)}{PullKeys.Columns.Name}:\n");
        }

        return columns is YamlMappingNode { Style: not MappingStyle.Flow, Children.Count: > 0 } block
            ? (LastLine(block), (int)block.Children.First().Key.Start.Column - 1, "")
            : throw InBraces(path, $"columns: of '{pullName}'", added);
    }

    private static int LastLine(YamlNode node) => node switch
    {
        YamlMappingNode { Style: not MappingStyle.Flow, Children.Count: > 0 } mapping => LastLine(mapping.Children.Last().Value),
        YamlSequenceNode { Style: not SequenceStyle.Flow, Children.Count: > 0 } sequence => LastLine(sequence.Children[^1]),
        _ => (int)(node.End.Column == 1 && node.End.Line > node.Start.Line ? node.End.Line - 1 : node.End.Line),
    };

    private static RefusedException InBraces(string path, string what, List<DraftedColumn> added) =>
        new(new Refusal(Outcome.WrongCommandLine, $"{what} in {path} is in braces, and was left alone")
        {
            NextStep = $"write its keys on separate lines, or add by hand: {string.Join(", ", added.Select(column => column.Yaml))}",
        });
}
