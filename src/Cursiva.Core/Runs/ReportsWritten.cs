using Cursiva.Core.Deliveries;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>What came of a run's reports.</summary>
/// <param name="Columns">The columns found, by pull.</param>
internal sealed record ReportsWritten(IReadOnlyList<WrittenFile> Files, Dictionary<string, KnownColumn[]> Columns, ReportTotals Totals)
{
    /// <summary>The files of reports that have one for each value, by report.</summary>
    public Dictionary<string, string[]> FilesPer { get; init; } = [];

    /// <summary>What deliveries take besides these files, by their names.</summary>
    public IReadOnlyDictionary<string, DeliveryExtract> Extracts { get; init; } = new Dictionary<string, DeliveryExtract>();

    /// <summary>Nothing was written.</summary>
    public static ReportsWritten None => new([], [], ReportTotals.None);
}
