using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Checks;

/// <summary>
/// Tries SQL on empty tables with the columns that pulls declare, so that a misspelt one is told before anything is pulled.
/// </summary>
internal sealed class SqlColumns
{
    private readonly Database _database;
    private readonly HashSet<string> _known = new(StringComparer.OrdinalIgnoreCase);

    /// <param name="seen">The columns that pulls had in an earlier run; they count where a pull declares none.</param>
    public SqlColumns(Database database, Job job, IReadOnlyDictionary<string, KnownColumn[]> seen)
    {
        _database = database;
        foreach (var pull in job.Pulls.Where(pull => pull.Columns.Count > 0 || seen.ContainsKey(pull.Name)))
        {
            foreach (var schema in new[] { PullTable.Present, ComparisonTables.Before })
                new PullTable(database, schema).Stage(pull, [], seen.GetValueOrDefault(pull.Name) ?? [], CancellationToken.None);
            _known.UnionWith([pull.Name, $"{ComparisonTables.Before}.{pull.Name}"]);
        }

        WrittenTable.Create(database);
        SkipsTable.Create(database, []);
        PullsTable.Create(database, []);
        RunTable.Create(database, new RunFacts(1, DateTimeOffset.UnixEpoch, DateTimeOffset.UnixEpoch, "{}", null, null));
        _known.UnionWith([SkipsTable.Name, PullsTable.Name, RunTable.Name, WrittenTable.Name]);
    }

    /// <summary>Lets later SQL read a query by its name, where its columns are known; it has no mistake.</summary>
    public void Name(Query query)
    {
        if (IsKnown(query.Sql))
        {
            _database.Execute($"create view {Database.Quoted(query.Name)} as {query.Sql.Text.Trim().TrimEnd(';')}");
            _known.Add(query.Name);
        }
    }

    /// <summary>What is wrong with SQL; null when nothing is, or when the columns of a table that it reads are not known yet.</summary>
    public (SqlException Error, string? Columns)? Error(SqlSource sql)
    {
        try
        {
            if (IsKnown(sql))
                _database.Prepare(sql.Text.Trim().TrimEnd(';'));
            return null;
        }
        catch (SqlException error)
        {
            return (error, TableColumns.Tell(_database, sql.Text));
        }
    }

    private bool IsKnown(SqlSource sql) => SqlText.Read(_database, sql.Text).Tables.All(table => _known.Contains(table.FullName));
}
