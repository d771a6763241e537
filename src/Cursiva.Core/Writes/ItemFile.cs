using System.Text.Json;

namespace Cursiva.Core.Writes;

/// <summary>Items, a line of JSON each.</summary>
internal static class ItemFile
{
    /// <summary>The items of a file, one after another.</summary>
    public static IEnumerable<WriteItem> Read(string path) =>
        File.ReadLines(path).Select(line => JsonSerializer.Deserialize(line, WriteJson.Default.WriteItem)!);

    /// <summary>What was planned, one item after another.</summary>
    public static IEnumerable<PlannedItem> ReadPlan(string path) =>
        File.ReadLines(path).Select(line => JsonSerializer.Deserialize(line, WriteJson.Default.PlannedItem)!);
}
