using Cursiva.Core.Tables;

namespace Cursiva.Core.Deliveries;

/// <summary>Which types of PostgreSQL keep the values of a query exactly.</summary>
internal static class TableTypes
{
    private static readonly string[] s_texts = ["text", "character varying", "character", "citext", "name"];

    /// <summary>The type of a column that is made for a column of a query.</summary>
    public static string Of(ResultColumn column) => column.SqlType switch
    {
        "BOOLEAN" => "boolean",
        "TINYINT" or "UTINYINT" or "SMALLINT" => "smallint",
        "USMALLINT" or "INTEGER" => "integer",
        "UINTEGER" or "BIGINT" => "bigint",
        "HUGEINT" or "UHUGEINT" or "UBIGINT" => "numeric",
        "FLOAT" => "real",
        "DOUBLE" => "double precision",
        "DATE" => "date",
        "TIME" => "time without time zone",
        "UUID" => "uuid",
        "BLOB" => "bytea",
        var type when type.StartsWith("DECIMAL", StringComparison.Ordinal) => "numeric" + type["DECIMAL".Length..].Replace(
            " ", "", StringComparison.Ordinal),
        var type when type.StartsWith("TIMESTAMP", StringComparison.Ordinal) => "timestamp with time zone",
        _ => column.Form == ValueForm.Json ? "jsonb" : "text",
    };

    /// <summary>Whether a column of a table keeps every value of a type, or refuses it: none is rounded, cut or moved.</summary>
    /// <param name="type">The type that the query's values have, one of <see cref="Of"/>.</param>
    /// <param name="there">The table's type, as <c>format_type</c> gives it.</param>
    public static bool Keeps(string type, string there)
    {
        var (kind, scale) = Split(there);
        if (s_texts.Contains(kind))
            return type != "bytea";
        return Split(type).Kind switch
        {
            "smallint" or "integer" or "bigint" => kind is "smallint" or "integer" or "bigint" or "numeric",
            "numeric" => kind == "numeric" && (scale is null || scale >= Split(type).Scale) || (kind == "bigint" && Split(type).Scale == 0),
            "real" => kind is "real",
            "double precision" => kind is "double precision" || (kind == "numeric" && scale is null),
            "jsonb" => kind is "jsonb" or "json",
            "text" => kind is "uuid" or "json" or "jsonb" || there.Contains('"', StringComparison.Ordinal),
            var same => kind == same,
        };
    }

    // numeric(10,2): numeric, 2. A numeric without an end has any scale.
    private static (string Kind, int? Scale) Split(string type)
    {
        var open = type.IndexOf('(', StringComparison.Ordinal);
        if (open < 0)
            return (type, null);
        var close = type.IndexOf(')', open);
        var comma = type.IndexOf(',', open);
        var kind = type[..open] + type[(close + 1)..];
        return (kind, comma > 0 && int.TryParse(type.AsSpan(comma + 1, close - comma - 1), out var scale) ? scale : 0);
    }
}
