using Cursiva.Core.Reports;

namespace Cursiva.Core.Deliveries;

/// <summary>What is to be delivered once.</summary>
/// <param name="Id">The ledger's name for it.</param>
/// <param name="Files">The files of the reports that go along.</param>
/// <param name="To">The addresses that a query gave; null where the job names them.</param>
/// <param name="Rows">The rows of a table; null where none go along.</param>
public sealed record Parcel(string Id, RunNews News, IReadOnlyList<WrittenFile> Files, IReadOnlyList<string>? To, TableExtract? Rows)
{
    /// <summary>Rows of the reports that go along: of each report those of its longest file.</summary>
    public long ReportRows => Files.GroupBy(file => file.Report).Sum(report => report.Max(file => file.Rows));

    /// <summary>The value of a name that words of deliveries may use; null for none.</summary>
    public string? Name(string name) => name switch
    {
        Jobs.Delivery.Title => News.Job,
        Jobs.Delivery.Rows => ReportRows.ToString(System.Globalization.CultureInfo.InvariantCulture),
        Jobs.Delivery.Told => News.Told,
        _ => News.Names(name),
    };
}
