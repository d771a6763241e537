using System.Text.Json;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>A list of JSON objects as a table: a column for every member that any of them has, in the order in which they appear.</summary>
internal static class AnswerTable
{
    private const int MostNamed = 12;

    /// <summary>The table of a list; null when the value is none, or has anything but objects in it.</summary>
    public static Table? Of(JsonElement value)
    {
        if (value.ValueKind != JsonValueKind.Array || value.EnumerateArray().Any(row => row.ValueKind != JsonValueKind.Object))
            return null;
        List<string> columns = [.. value.EnumerateArray().SelectMany(row => row.EnumerateObject().Select(member => member.Name)).Distinct(
            StringComparer.Ordinal)];
        var table = Tables.Plain([.. columns]);
        foreach (var row in value.EnumerateArray())
            table.AddRow(columns.Select(column => Shown.Text(row.TryGetProperty(column, out var cell) ? Text(cell) : "")));
        return table;
    }

    /// <summary>What an answer has, for a message: the pointers of its lists first.</summary>
    public static string Members(JsonElement root)
    {
        if (root.ValueKind != JsonValueKind.Object)
            return root.ValueKind == JsonValueKind.Array ? "a list itself, at the empty pointer ''" : "a single value";
        List<string> names = [.. root.EnumerateObject().OrderBy(member => member.Value.ValueKind != JsonValueKind.Array).Select(
            member => "/" + member.Name.Replace("~", "~0").Replace("/", "~1"))];
        return names.Count == 0
            ? "no members"
            : string.Join(", ", names.Take(MostNamed)) + (names.Count > MostNamed ? $" and {names.Count - MostNamed} more" : "");
    }

    private static string Text(JsonElement cell) => cell.ValueKind switch
    {
        JsonValueKind.String => cell.GetString()!,
        JsonValueKind.Null => "",
        _ => cell.GetRawText(),
    };
}
