using System.Text;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Gathers the rows of a chart, as many as a chart can show.</summary>
internal sealed class ChartRows(PartHead head)
{
    private readonly List<string?[]> _rows = [];

    public void Add(TextRows rows)
    {
        if (_rows.Count <= ChartData.MostPoints)
            _rows.Add([.. Enumerable.Range(0, rows.Columns).Select(column => rows.IsNull(column) ? null : Encoding.UTF8.GetString(rows.Value(column)))]);
    }

    /// <exception cref="TableException">The rows make no such chart.</exception>
    public ChartData Data() => ChartData.Of(head.Part, head.Columns, _rows);

    public IReadOnlyList<string?[]> Rows => _rows;
}
