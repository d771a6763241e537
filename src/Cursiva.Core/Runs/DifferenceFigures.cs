using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>
/// Figures that tell what has changed since the last good run. How they differ from those of that run means nothing to anybody.
/// </summary>
internal sealed class DifferenceFigures(Job job, Database database)
{
    /// <summary>What the last good run had, without such figures.</summary>
    public ReportTotals Without(ReportTotals before)
    {
        var names = job.Reports
            .SelectMany(
                report => report.Parts.Where(part => part is { Kind: PartKind.Figure, Sql: { } sql } && ReadsDifferences(sql.Text)).Select(
                    part => ReportTotals.NameOf(report.Name, part.Name)))
            .ToHashSet(StringComparer.Ordinal);
        return before with { Figures = before.Figures.Where(figure => !names.Contains(figure.Key)).ToDictionary(StringComparer.Ordinal) };
    }

    // By itself, or by a view, which sees the views above it.
    private bool ReadsDifferences(string sql) => SqlText.Read(database, sql).Tables.Any(table =>
        ComparisonTables.Schemas.Contains(table.Schema, StringComparer.OrdinalIgnoreCase)
        || (table.Schema.Length == 0
            && job.Queries.FirstOrDefault(view => view.Name.Equals(table.Name, StringComparison.OrdinalIgnoreCase)) is { } view
            && ReadsDifferences(view.Sql.Text)));
}
