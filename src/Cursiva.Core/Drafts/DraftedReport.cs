using System.Text;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>A first report of a drafted job: all rows, counts by what has few values, and a line over time.</summary>
internal static class DraftedReport
{
    private const int MostCounted = 3;
    private const int FewValues = 12;

    /// <summary>Appends the section of reports.</summary>
    /// <param name="pull">The pull's name.</param>
    /// <param name="columns">Its columns; empty where they are not known yet.</param>
    /// <param name="rows">Rows that the columns were found in.</param>
    public static void Append(StringBuilder text, string pull, IReadOnlyList<DraftedColumn> columns, int rows)
    {
        text.Append($"\nreports:\n  {pull.Replace('_', '-')}:\n    parts:\n");
        Part(text, "rows", "as: figure, title: Rows", $"select count(*) from {pull}");
        foreach (var column in columns.Where(
            column => column.Type is ColumnType.Text or ColumnType.Boolean
                && column.Different is >= 2 and <= FewValues
                && rows >= 2 * column.Different).OrderBy(column => column.Different).Take(MostCounted))
            Part(
                text,
                "by-" + YamlText.Name(column.Name).Replace('_', '-'),
                $"as: bar, title: {YamlText.Literal($"Rows by {column.Name}")}, unit: rows",
                $"select {SqlName.Of(column.Name)}, count(*) as number from {pull} group by all order by number desc, 1");
        if (columns.FirstOrDefault(column => column.Type is ColumnType.Time or ColumnType.Date && column.Different >= 2) is { } time)
            Part(
                text,
                "over-time",
                $"as: line, title: {YamlText.Literal($"Rows by day of {time.Name}")}, unit: rows",
                $"select {SqlName.Of(time.Name)}::date as day, count(*) as number from {pull} where {SqlName.Of(time.Name)} is not null group by day order by day");
        var order = columns.FirstOrDefault(column => column.IsUnique) is { } key ? $" order by {SqlName.Of(key.Name)}" : "";
        Part(text, "every", "title: Every row", $"select * from {pull}{order}");
        text.Append($"    write: [{pull}.html, {pull}.xlsx]\n  {pull.Replace('_', '-')}-rows:\n    sql: {YamlText.Literal($"select * from {pull}{order}")}\n    write: [{pull}.csv]\n");
    }

    private static void Part(StringBuilder text, string name, string keys, string sql) =>
        text.Append($"      {name}: {{ {keys}, sql: {YamlText.Quoted(sql.Replace("{", "{{", StringComparison.Ordinal).Replace("}", "}}", StringComparison.Ordinal))} }}\n");
}
