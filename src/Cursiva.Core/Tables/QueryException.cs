using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tables;

/// <summary>A named query that the engine refused.</summary>
/// <param name="columns">The columns that exist, in words; null when they are not known.</param>
public sealed class QueryException(Query query, SqlException error, string? columns) : Exception(error.Message, error)
{
    /// <summary>The SQL that failed.</summary>
    public Query Query { get; } = query;

    /// <summary>Where in the job file.</summary>
    public Place Place { get; } = Locate(query, error);

    /// <summary>The columns that the tables have, for the message; null where they do not help.</summary>
    public string? Columns { get; } = columns;

    // The engine counts from the start of the statement that makes the query a view.
    private static Place Locate(Query query, SqlException error)
    {
        var before = $"create view {Database.Quoted(query.Name)} as ".Length - (query.Sql.Text.Length - query.Sql.Text.TrimStart().Length);
        return query.Sql.At(error.Position is { } at && at >= before ? at - before : null);
    }
}
