using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>The rows of a part: its SQL, or a table that holds its result where they are needed more than once.</summary>
/// <param name="Columns">Empty for words.</param>
/// <param name="Sql">Gives the rows in their order; null for words.</param>
internal sealed record PartSource(Part Part, IReadOnlyList<ResultColumn> Columns, string? Sql)
{
    private const string Schema = "results";

    /// <summary>Looks at a part's SQL, and keeps its result where that is asked for.</summary>
    /// <exception cref="SqlException">The SQL fails; the place is in the part's SQL.</exception>
    /// <exception cref="TableException">Two columns have one name.</exception>
    public static PartSource Of(Database database, string report, Part part, bool keep)
    {
        if (part.Sql is null)
            return new PartSource(part, [], null);
        var sql = part.Sql.Text.Trim().TrimEnd(';');
        var columns = ResultColumn.Describe(database, sql);
        if (columns.GroupBy(column => column.Name, StringComparer.OrdinalIgnoreCase).FirstOrDefault(
            group => group.Count() > 1) is { } twice)
            throw new TableException($"two columns are called '{twice.Key}'; give each its own name with as");
        if (!keep)
            return new PartSource(part, columns, sql);
        var table = $"{Schema}.{Database.Quoted(ReportTotals.NameOf(report, part.Name))}";
        database.Execute($"create schema if not exists {Schema}; create or replace table {table} as {sql}");
        return new PartSource(part, columns, $"select * from {table}");
    }

    /// <summary>The rows for which a column has a value.</summary>
    /// <param name="value">As text; null for the rows without one.</param>
    public PartSource Where(string column, string? value) =>
        this with
        {
            Sql =
                $"select * from ({Sql}) where {Database.Quoted(column)}::varchar is not distinct from {(value is null ? "null" : Database.Literal(value))}",
        };
}
