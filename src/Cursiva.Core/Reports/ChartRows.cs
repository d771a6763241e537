using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Gathers the rows of a chart, as many as a chart can show.</summary>
internal sealed class ChartRows(PartHead head, ShownValue shown)
{
    private readonly List<string?[]> _rows = [];

    public void Add(TextRows rows)
    {
        if (_rows.Count <= ChartData.MostPoints)
            _rows.Add(
                [.. Enumerable.Range(0, rows.Columns).Select(
                    column => rows.IsNull(column) ? null : shown.Of(rows.Value(column), head.Columns[column].Form))]);
    }

    /// <exception cref="TableException">The rows make no such chart.</exception>
    public ChartData Data() => ChartData.Of(head.Part, head.Columns, _rows);

    public IReadOnlyList<string?[]> Rows => _rows;
}
