namespace Cursiva.Core.Tables;

/// <summary>A column of a query's result.</summary>
/// <param name="IsBare">Its text is JSON as it stands: a number, true or false, or JSON itself.</param>
public sealed record ResultColumn(string Name, string SqlType, bool IsBare)
{
    /// <summary>The columns of a query, and the query that gives all of them as text, digits and all.</summary>
    /// <exception cref="SqlException">The query cannot be bound.</exception>
    public static (IReadOnlyList<ResultColumn> Columns, string AsText) Describe(Database database, string sql)
    {
        var query = sql.Trim().TrimEnd(';');
        database.Prepare(query);

        // describe gives text columns alone, but only its first two matter; a line break ends a comment of the query's.
        var described = database.All($"select column_name::varchar, column_type::varchar from (describe {query}\n)");
        List<ResultColumn> columns = [.. described.Select(row => new ResultColumn(row[0]!, row[1]!, Bare(row[1]!)))];
        var names = columns.Select((_, place) => $"c{place}");
        var texts = columns.Select((column, place) => AsTextOf(column, $"c{place}"));
        return (columns, $"select {string.Join(", ", texts)} from ({query}\n) as q({string.Join(", ", names)})");
    }

    private static string AsTextOf(ResultColumn column, string name) => column.SqlType switch
    {
        "TIMESTAMP" or "TIMESTAMP WITH TIME ZONE" or "TIMESTAMP_S" or "TIMESTAMP_MS" or "TIMESTAMP_NS" =>
            $"case when {name} is null then null else strftime({name}::timestamp, '%Y-%m-%dT%H:%M:%S') || case when microsecond({name}) % 1000000 = 0 then '' else rtrim(strftime({name}::timestamp, '.%f'), '0') end || 'Z' end",
        "BLOB" => $"to_base64({name})",
        var type when IsNested(type) => $"to_json({name})::varchar",
        _ => $"{name}::varchar",
    };

    private static bool Bare(string type) =>
        type is "BOOLEAN" or "JSON" or "TINYINT" or "SMALLINT" or "INTEGER" or "BIGINT" or "HUGEINT" or "UTINYINT" or "USMALLINT" or "UINTEGER" or "UBIGINT" or "UHUGEINT" or "FLOAT" or "DOUBLE"
        || type.StartsWith("DECIMAL", StringComparison.Ordinal)
        || IsNested(type);

    private static bool IsNested(string type) =>
        type.EndsWith(']') || type.StartsWith("STRUCT", StringComparison.Ordinal) || type.StartsWith("MAP", StringComparison.Ordinal) || type.StartsWith("UNION", StringComparison.Ordinal);
}
