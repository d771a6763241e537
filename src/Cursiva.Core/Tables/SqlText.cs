using System.Text.Json;

namespace Cursiva.Core.Tables;

/// <summary>What can be said of a query before any row is there.</summary>
/// <param name="Tables">The tables it reads, other than those it names itself, with the place of the first mention.</param>
public sealed record SqlText(IReadOnlyList<TableMention> Tables)
{
    // Those that give rows out of their arguments alone.
    private static readonly HashSet<string> s_tableFunctions = new(StringComparer.OrdinalIgnoreCase)
    {
        "generate_series",
        "histogram",
        "histogram_values",
        "json_each",
        "json_tree",
        "pg_timezone_names",
        "range",
        "repeat",
        "repeat_row",
        "unnest",
    };

    private static readonly HashSet<string> s_noFunctions = new(StringComparer.OrdinalIgnoreCase)
    {
        "currval",
        "nextval",
        "setseed",
        "sleep_ms",
        "write_log",
    };

    /// <summary>Reads a query; it must be one SELECT.</summary>
    /// <exception cref="SqlException">It is something else, or no SQL.</exception>
    public static SqlText Read(Database database, string sql)
    {
        if (string.IsNullOrWhiteSpace(sql))
            throw new SqlException("there is no SQL", 0);
        var json = database.All($"select json_serialize_sql({Database.Literal(sql)})::varchar")[0][0]!;
        using var document = JsonDocument.Parse(json);
        var root = document.RootElement;
        if (root.GetProperty("error").GetBoolean())
        {
            var message = root.GetProperty("error_message").GetString()!;
            int? position = root.TryGetProperty("position", out var place) && int.TryParse(place.GetString(), out var number)
                ? number
                : null;
            throw new SqlException(position is null ? "only SELECT is allowed here" : message, position);
        }

        if (root.GetProperty("statements").GetArrayLength() != 1)
            throw new SqlException("there is more than one statement", null);

        CheckFunctions(root);
        var tables = new List<TableMention>();
        var own = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        Gather(root, tables, own);
        return new SqlText(
            [.. tables.Where(table => table.Schema.Length > 0 || !own.Contains(table.Name)).DistinctBy(
                table => table.FullName.ToUpperInvariant())]);
    }

    // What reads the machine, changes settings or runs SQL that nobody looked at is omitted by naming what is left in.
    private static void CheckFunctions(JsonElement element)
    {
        if (element.ValueKind == JsonValueKind.Array)
        {
            foreach (var item in element.EnumerateArray())
                CheckFunctions(item);
        }

        if (element.ValueKind != JsonValueKind.Object)
            return;
        if (Text(element, "type") == "TABLE_FUNCTION" && element.TryGetProperty("function", out var called))
        {
            if (Text(called, "class") == "FUNCTION" && Text(called, "function_name") is { } table && !s_tableFunctions.Contains(table))
                throw new SqlException(
                    $"the table function {table} is not allowed here; allowed are {string.Join(", ", s_tableFunctions.Order(StringComparer.Ordinal))}",
                    PositionOf(called));
        }
        else if (Text(element, "class") == "FUNCTION" && Text(element, "function_name") is { } name && s_noFunctions.Contains(name))
        {
            throw new SqlException(
                $"the function {name} is not allowed here: it does more than return a value", PositionOf(element));
        }

        foreach (var property in element.EnumerateObject())
            CheckFunctions(property.Value);
    }

    private static string? Text(JsonElement element, string name) =>
        element.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString() : null;

    private static int? PositionOf(JsonElement element) =>
        element.TryGetProperty("query_location", out var place) && place.TryGetInt32(out var at) ? at : null;

    private static void Gather(JsonElement element, List<TableMention> tables, HashSet<string> own)
    {
        if (element.ValueKind == JsonValueKind.Array)
        {
            foreach (var item in element.EnumerateArray())
                Gather(item, tables, own);
        }

        if (element.ValueKind != JsonValueKind.Object)
            return;
        if (element.TryGetProperty("type", out var type) && type.ValueKind == JsonValueKind.String && type.GetString() == "BASE_TABLE")
        {
            var schema = element.GetProperty("schema_name").GetString() ?? "";
            var position = element.TryGetProperty("query_location", out var place) && place.TryGetInt32(out var at) ? at : 0;
            tables.Add(new TableMention(schema == "main" ? "" : schema, element.GetProperty("table_name").GetString()!, position));
        }

        if (element.TryGetProperty("cte_map", out var named) && named.TryGetProperty("map", out var map))
            own.UnionWith(map.EnumerateArray().Select(entry => entry.GetProperty("key").GetString()!));
        foreach (var property in element.EnumerateObject())
            Gather(property.Value, tables, own);
    }
}
