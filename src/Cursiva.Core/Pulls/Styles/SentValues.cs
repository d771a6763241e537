using System.Text.Json;

namespace Cursiva.Core.Pulls;

/// <summary>One value as JSON, or several in an array: what a cursor or keyset keeps as its position.</summary>
internal static class SentValues
{
    /// <summary>The position of values.</summary>
    /// <param name="values">Each as JSON.</param>
    public static string Join(IReadOnlyList<string> values) => values.Count == 1 ? values[0] : $"[{string.Join(',', values)}]";

    /// <summary>The values of a position.</summary>
    /// <param name="count">How many there are.</param>
    public static IReadOnlyList<string> Split(string position, int count)
    {
        if (count <= 1)
            return [position];
        using var document = JsonDocument.Parse(position);
        return [.. document.RootElement.EnumerateArray().Select(value => value.GetRawText())];
    }
}
