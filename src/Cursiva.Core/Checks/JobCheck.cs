using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Checks;

/// <summary>What can be found wrong with a job that was read, before any request is made.</summary>
public static class JobCheck
{
    private const long EnoughMemory = 256L * 1024 * 1024;

    /// <summary>
    /// Checks the SQL of the reports: the grammar, one SELECT each, the tables they read, and the columns as far as pulls declare them.
    /// </summary>
    public static IReadOnlyList<Mistake> Check(Job job) => Check(job, new Dictionary<string, KnownColumn[]>());

    /// <summary>What SQL reads that the last run had not. The API may have it by now, so that these are not mistakes.</summary>
    /// <param name="seen">The columns of that run, by pull.</param>
    public static IReadOnlyList<string> Unseen(Job job, IReadOnlyDictionary<string, KnownColumn[]> seen) =>
        [.. Check(job, seen).Select(mistake => $"{mistake.Place}: with the columns of the last run, {mistake.Found}; {mistake.Right}")];

    private static List<Mistake> Check(Job job, IReadOnlyDictionary<string, KnownColumn[]> seen)
    {
        if (job.Reports.Count == 0
            && job.Queries.Count == 0
            && job.Writes.Count == 0
            && job.Deliveries.Count == 0
            && job.Pulls.All(pull => pull.Per?.Sql is null))
            return [];

        var mistakes = new List<Mistake>();
        using var database = new Database(Path.GetTempPath(), EnoughMemory);
        database.Confine();
        var columns = new SqlColumns(database, job, seen);
        var tables = new List<string>(
            [.. job.Pulls.Select(pull => pull.Name), SkipsTable.Name, PullsTable.Name, RunTable.Name, WrittenTable.Name]);
        tables.AddRange(job.Pulls.Select(pull => $"{ComparisonTables.Before}.{pull.Name}"));
        tables.AddRange(job.Comparisons.SelectMany(comparison => ComparisonTables.Schemas.Select(schema => $"{schema}.{comparison.Pull}")));
        foreach (var query in job.Queries)
        {
            var found = mistakes.Count;
            CheckSql(database, columns, query.Sql, $"view '{query.Name}'", tables, mistakes);
            if (mistakes.Count == found)
                columns.Name(query);
            tables.Add(query.Name);
        }

        foreach (var report in job.Reports)
        {
            foreach (var part in report.Parts.Where(part => part.Sql is not null))
                CheckSql(
                    database,
                    columns,
                    part.Sql!,
                    report.Parts.Count == 1 ? $"report '{report.Name}'" : $"part '{part.Name}' of report '{report.Name}'",
                    tables,
                    mistakes);
        }

        foreach (var write in job.Writes)
            CheckSql(database, columns, write.Sql, $"write '{write.Name}'", tables, mistakes);
        foreach (var delivery in job.Deliveries)
        {
            if (Sources.Of(delivery) is { } sql)
                CheckSql(database, columns, sql, $"delivery '{delivery.Name}'", tables, mistakes);
        }

        foreach (var pull in job.Pulls.Where(pull => pull.Per?.Sql is not null))
            CheckQuery(database, job, pull, mistakes);
        return [.. mistakes.Distinct()];
    }

    private static void CheckSql(
        Database database, SqlColumns columns, SqlSource sql, string what, IReadOnlyList<string> tables, List<Mistake> mistakes)
    {
        try
        {
            if (columns.Error(sql) is { } wrong)
                mistakes.Add(
                    new Mistake(
                        sql.At(wrong.Error.Position),
                        $"the SQL of {what} is wrong: {wrong.Error.Message}",
                        wrong.Columns ?? "write one SELECT over the pulls' tables"));
            foreach (var table in SqlText.Read(database, sql.Text).Tables.Where(
                table => IsOurs(table) && !tables.Contains(table.FullName, StringComparer.OrdinalIgnoreCase)))
                mistakes.Add(
                    new Mistake(
                        sql.At(table.Position),
                        $"{what} reads the table '{table.FullName}', which does not exist",
                        Nearest.Hint(table.FullName, [.. tables.Where(name => table.Schema.Length > 0 || !name.Contains('.'))], "tables")));
        }
        catch (SqlException error)
        {
            mistakes.Add(
                new Mistake(
                    sql.At(error.Position), $"the SQL of {what} is wrong: {error.Message}", "write one SELECT over the pulls' tables"));
        }
    }

    // The engine has tables of its own, such as information_schema's.
    private static bool IsOurs(TableMention table) =>
        table.Schema.Length == 0
            || table.Schema.Equals(ComparisonTables.Before, StringComparison.OrdinalIgnoreCase)
            || ComparisonTables.Schemas.Contains(
            table.Schema, StringComparer.OrdinalIgnoreCase);

    // What a pull is repeated for may be read from pulls above it alone: the others are not landed yet.
    private static void CheckQuery(Database database, Job job, Pull pull, List<Mistake> mistakes)
    {
        List<string> above = [.. job.Pulls.TakeWhile(other => other != pull).Select(other => other.Name)];
        try
        {
            foreach (var (_, name, _) in SqlText.Read(database, pull.Per!.Sql!).Tables.Where(
                table => !above.Contains(table.FullName, StringComparer.OrdinalIgnoreCase)))
                mistakes.Add(
                    new Mistake(
                        pull.Per.Place,
                        $"the query of pull '{pull.Name}' reads the table '{name}', but no pull above has this name",
                        Nearest.Hint(name, above, "pulls above")));
        }
        catch (SqlException error)
        {
            mistakes.Add(
                new Mistake(
                    pull.Per!.Place, $"the query of pull '{pull.Name}' is wrong: {error.Message}", "write one SELECT over pulls above"));
        }
    }
}
