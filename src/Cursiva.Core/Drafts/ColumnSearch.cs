using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>Finds the columns of rows: members of objects inside rows are columns of their own, and arrays stay JSON.</summary>
internal sealed class ColumnSearch
{
    private const int Deepest = 4;

    private readonly Dictionary<string, SeenColumn> _columns = new(StringComparer.Ordinal);
    private readonly List<SeenColumn> _order = [];
    private int _rows;

    private ColumnSearch()
    {
    }

    /// <summary>The columns of some rows, in the order in which they were met.</summary>
    /// <param name="rows">Rows, each a JSON object.</param>
    public static IReadOnlyList<DraftedColumn> In(IEnumerable<JsonElement> rows)
    {
        var search = new ColumnSearch();
        foreach (var row in rows.Where(row => row.ValueKind == JsonValueKind.Object))
        {
            search._rows++;
            search.Walk(row, []);
        }

        return search.Named();
    }

    private void Walk(JsonElement element, IReadOnlyList<string> at)
    {
        foreach (var member in element.EnumerateObject())
        {
            IReadOnlyList<string> place = [.. at, member.Name];
            if (member.Value.ValueKind == JsonValueKind.Object && place.Count < Deepest && member.Value.EnumerateObject().Any())
            {
                Walk(member.Value, place);
                continue;
            }

            var pointer = JsonPointer.ToFields(place);
            if (!_columns.TryGetValue(pointer.Text, out var column))
            {
                _columns[pointer.Text] = column = new SeenColumn(pointer);
                _order.Add(column);
            }

            column.See(member.Value);
        }
    }

    // SQL ignores case in names.
    private List<DraftedColumn> Named()
    {
        var taken = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        var columns = new List<DraftedColumn>();
        foreach (var seen in _order.Where(
            seen => !(seen.IsNullAlone && _order.Exists(inner => inner.At.Text.StartsWith(seen.At.Text + "/", StringComparison.Ordinal)))))
        {
            var name = string.Join('_', seen.At.Segments);
            for (var number = 2; !taken.Add(name); number++)
                name = $"{string.Join('_', seen.At.Segments)}_{number}";
            columns.Add(seen.Draft(name, _rows));
            if (columns[^1].LosesPlaces && taken.Add(name + "_as_sent"))
                columns.Add(
                    new DraftedColumn(
                        name + "_as_sent", seen.At, ColumnType.Text, "the original digits; the column above is for computing"));
        }

        return columns;
    }
}
