using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Writes a report as one format: part by part, row by row.</summary>
internal interface IReportWriter : IDisposable
{
    /// <summary>Begins a part.</summary>
    void Begin(PartHead head);

    /// <summary>Writes the row at which the part's result stands.</summary>
    /// <exception cref="TableException">The format cannot keep a value as it is; names column and row.</exception>
    void Row(TextRows rows);

    /// <summary>Ends the part.</summary>
    void EndPart();

    /// <summary>Ends the report; everything is in the stream.</summary>
    void End();
}
