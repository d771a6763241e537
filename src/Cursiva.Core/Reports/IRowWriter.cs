using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Writes a result to a file of one format.</summary>
internal interface IRowWriter
{
    void Begin(IReadOnlyList<ResultColumn> columns);

    /// <summary>Writes the row at which the result stands.</summary>
    void Row(TextRows rows);

    void End();
}
