namespace Cursiva.Core.Tables;

/// <summary>A column of a query's result.</summary>
/// <param name="IsBare">Its text is JSON as it stands: a number, true or false, or JSON itself.</param>
public sealed record ResultColumn(string Name, string SqlType, bool IsBare)
{
    /// <summary>What its values are, for whoever shows them.</summary>
    public ValueForm Form { get; } = FormOf(SqlType);

    /// <summary>Places behind the point, of a decimal.</summary>
    public int Scale =>
        Form == ValueForm.Decimal && SqlType.IndexOf(',') is > 0 and var comma
            ? int.Parse(SqlType.AsSpan(comma + 1).TrimEnd(')'), System.Globalization.CultureInfo.InvariantCulture)
            : 0;

    /// <summary>Whether its values are numbers.</summary>
    public bool IsNumber => Form is ValueForm.Whole or ValueForm.Decimal or ValueForm.Float;

    /// <summary>The columns of a query.</summary>
    /// <exception cref="SqlException">The query cannot be bound.</exception>
    public static IReadOnlyList<ResultColumn> Describe(Database database, string sql)
    {
        var query = sql.Trim().TrimEnd(';');
        database.Prepare(query);

        // describe gives text columns alone, but only its first two matter; a line break ends a comment of the query's.
        var described = database.All($"select column_name::varchar, column_type::varchar from (describe {query}\n)");
        return [.. described.Select(row => new ResultColumn(row[0]!, row[1]!, Bare(row[1]!)))];
    }

    /// <summary>The query that gives all columns as text, digits and all.</summary>
    public static string AsText(IReadOnlyList<ResultColumn> columns, string sql)
    {
        var texts = columns.Select((column, place) => AsTextOf(column, $"c{place}"));
        return $"select {string.Join(", ", texts)} from ({sql.Trim().TrimEnd(';')}\n) as q({string.Join(", ", columns.Select((_, place) => $"c{place}"))})";
    }

    /// <summary>The query in the types that a file keeps exactly: a whole number of any size as a decimal, a time as an instant.</summary>
    public static string Kept(IReadOnlyList<ResultColumn> columns, string sql)
    {
        var kept = columns.Select((column, place) => column.SqlType switch
        {
            "HUGEINT" or "UHUGEINT" => $"cast(c{place} as decimal(38, 0))",
            "TIMESTAMP" or "TIMESTAMP_S" or "TIMESTAMP_MS" => $"cast(c{place} as timestamptz)",
            "BIT" or "JSON" => $"c{place}::varchar",
            _ => $"c{place}",
        } + " as " + Database.Quoted(column.Name));
        return $"select {string.Join(", ", kept)} from ({sql.Trim().TrimEnd(';')}\n) as q({string.Join(", ", columns.Select((_, place) => $"c{place}"))})";
    }

    private static string AsTextOf(ResultColumn column, string name) => column.SqlType switch
    {
        "TIMESTAMP" or "TIMESTAMP WITH TIME ZONE" or "TIMESTAMP_S" or "TIMESTAMP_MS" or "TIMESTAMP_NS" =>
            $"case when {name} is null then null else strftime({name}::timestamp, '%Y-%m-%dT%H:%M:%S') || case when microsecond({name}) % 1000000 = 0 then '' else rtrim(strftime({name}::timestamp, '.%f'), '0') end || 'Z' end",
        "BLOB" => $"to_base64({name})",
        var type when IsNested(type) => $"to_json({name})::varchar",
        var type => WrittenDecimal.Text(type, name),
    };

    private static bool Bare(string type) =>
        type is "BOOLEAN" or "JSON" or "TINYINT" or "SMALLINT" or "INTEGER" or "BIGINT" or "HUGEINT" or "UTINYINT" or "USMALLINT" or "UINTEGER" or "UBIGINT" or "UHUGEINT" or "FLOAT" or "DOUBLE"
        || type.StartsWith("DECIMAL", StringComparison.Ordinal)
        || IsNested(type);

    private static ValueForm FormOf(string type) => type switch
    {
        "BOOLEAN" => ValueForm.Boolean,
        "TINYINT" or "SMALLINT" or "INTEGER" or "BIGINT" or "HUGEINT" or "UTINYINT" or "USMALLINT" or "UINTEGER" or "UBIGINT" or "UHUGEINT" => ValueForm.Whole,
        "FLOAT" or "DOUBLE" => ValueForm.Float,
        "DATE" => ValueForm.Date,
        _ when type.StartsWith("TIMESTAMP", StringComparison.Ordinal) => ValueForm.Time,
        _ when type.EndsWith(",0)", StringComparison.Ordinal) && type.StartsWith("DECIMAL", StringComparison.Ordinal) => ValueForm.Whole,
        _ when type.StartsWith("DECIMAL", StringComparison.Ordinal) => ValueForm.Decimal,
        "JSON" => ValueForm.Json,
        _ when IsNested(type) => ValueForm.Json,
        _ => ValueForm.Text,
    };

    private static bool IsNested(string type) =>
        type.EndsWith(']')
            || type.StartsWith("STRUCT", StringComparison.Ordinal)
            || type.StartsWith("MAP", StringComparison.Ordinal)
            || type.StartsWith(
            "UNION", StringComparison.Ordinal);
}
