using System.Globalization;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Tables;

/// <summary>All the tables that a job's SQL may read.</summary>
public sealed class JobTables
{
    private readonly Database _database;
    private readonly Job _job;
    private readonly IReadOnlyList<TableMention> _inQueries;
    private readonly IReadOnlyList<TableMention> _inReports;
    private readonly Dictionary<string, IReadOnlyList<KnownColumn>> _columns = new(StringComparer.Ordinal);
    private readonly Dictionary<string, IReadOnlyList<KnownColumn>> _before = new(StringComparer.Ordinal);

    /// <exception cref="SqlException">A report or query is not SQL.</exception>
    public JobTables(Database database, Job job)
    {
        _database = database;
        _job = job;
        _inQueries = [.. job.Queries.SelectMany(query => SqlText.Read(database, query.Sql.Text).Tables)];
        _inReports = [.. job.Reports
            .SelectMany(report => report.Parts)
            .Select(part => part.Sql)
            .OfType<SqlSource>()
            .Concat(Sources.Beside(job))
            .SelectMany(sql => SqlText.Read(database, sql.Text).Tables)];
        database.Execute($"create schema if not exists {ComparisonTables.Before}");
    }

    /// <summary>Names that stood twice in one row of the pull that was staged last.</summary>
    public long NamesTwice { get; private set; }

    /// <summary>What the user should know of the values of the pull that was staged last.</summary>
    public IReadOnlyList<string> Notices { get; private set; } = [];

    /// <summary>Rows of the pull that was staged last.</summary>
    public long Rows { get; private set; }

    /// <summary>
    /// Stages the rows of a pull as they are now. Those that one report reads once are not staged, but read where they landed.
    /// </summary>
    /// <exception cref="TableException">A value does not fit.</exception>
    public IReadOnlyList<KnownColumn> Stage(
        Pull pull, IReadOnlyList<LandedRows> rows, IReadOnlyList<KnownColumn> lastSeen, CancellationToken cancel)
    {
        var table = new PullTable(_database);
        var streams = IsReadOnce(pull) && PullTable.CanStream(pull);
        _columns[pull.Name] = table.Stage(pull, rows, lastSeen, cancel, streams);
        Rows = streams
            ? rows.Sum(source => source.Count)
            : long.Parse(_database.All($"select count(*)::varchar from {Database.Quoted(pull.Name)}")[0][0]!, CultureInfo.InvariantCulture);
        NamesTwice = table.NamesTwice;
        Notices = table.Notices;
        return _columns[pull.Name];
    }

    /// <summary>Whether anything reads the rows that a pull had in the last good run.</summary>
    public bool NeedsBefore(Pull pull) =>
        _job.Comparisons.Any(comparison => comparison.Pull == pull.Name)
        || _inQueries.Concat(_inReports).Any(table => Is(table.Schema, ComparisonTables.Before) && Is(table.Name, pull.Name));

    /// <summary>Stages the rows that a pull had in the last good run.</summary>
    /// <param name="rows">Null when there is no such run, or its rows are gone: the table is there and empty then.</param>
    public void StageBefore(Pull pull, IReadOnlyList<LandedRows>? rows, CancellationToken cancel)
    {
        var columns = _columns[pull.Name];
        if (rows is not null)
        {
            _before[pull.Name] = new PullTable(_database, ComparisonTables.Before).Stage(pull, rows, columns, cancel);
            return;
        }

        _before[pull.Name] = columns;
        _database.Execute(
            $"create or replace view {ComparisonTables.Before}.{Database.Quoted(pull.Name)} as select * from {PullTable.Present}.{Database.Quoted(pull.Name)} where false");
    }

    /// <summary>Creates what is not a pull: skips, pulls, the run, comparisons and queries.</summary>
    /// <exception cref="TableException">A comparison cannot be made.</exception>
    /// <exception cref="QueryException">A query fails.</exception>
    public void CreateOthers(IEnumerable<LandedStrand> skipped, IReadOnlyList<PullFacts> pulls, RunFacts run)
    {
        PullsTable.Create(_database, pulls);
        WrittenTable.Create(_database);
        SkipsTable.Create(_database, Mentions(SkipsTable.Name) ? skipped : []);
        RunTable.Create(_database, run);
        var comparisons = new ComparisonTables(_database);
        foreach (var comparison in _job.Comparisons)
            comparisons.Create(comparison, _columns[comparison.Pull], _before[comparison.Pull]);
        foreach (var query in _job.Queries)
        {
            try
            {
                _database.Execute($"create view {Database.Quoted(query.Name)} as {query.Sql.Text.Trim().TrimEnd(';')}");
            }
            catch (SqlException error)
            {
                throw new QueryException(query, error, TableColumns.Tell(_database, query.Sql.Text));
            }
        }
    }

    /// <summary>Whether a report reads a table, itself or through views.</summary>
    public bool Reads(Report report, string table)
    {
        var asked = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        return report.Parts.Any(part => part.Sql is { } sql && Reads(sql, table, asked));
    }

    private bool Reads(SqlSource sql, string table, HashSet<string> asked) =>
        SqlText.Read(_database, sql.Text).Tables.Any(
            mention => Is(mention.Name, table)
                || (asked.Add(mention.Name)
                    && _job.Queries.FirstOrDefault(query => Is(query.Name, mention.Name)) is { } view
                    && Reads(view.Sql, table, asked)));

    private bool Mentions(string table) => _inQueries.Concat(_inReports).Any(mention => Is(mention.Name, table));

    // A named query may be read any number of times.
    private bool IsReadOnce(Pull pull) =>
        !NeedsBefore(pull)
            && !_inQueries.Any(table => Is(table.Name, pull.Name))
            && _inReports.Count(table => Is(table.Name, pull.Name)) <= 1;

    private static bool Is(string name, string other) => name.Equals(other, StringComparison.OrdinalIgnoreCase);
}
