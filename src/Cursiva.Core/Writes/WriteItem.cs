namespace Cursiva.Core.Writes;

/// <summary>One row of a write's SQL.</summary>
/// <param name="Key">The values of the key's columns, as a JSON array.</param>
/// <param name="Digest">See <see cref="ItemEntry.Digest"/>.</param>
/// <param name="Values">Its columns, as <c>row.NAME</c>, each as JSON.</param>
public sealed record WriteItem(string Key, string Digest, IReadOnlyDictionary<string, string> Values)
{
    /// <summary>The key for people: its values with commas between them.</summary>
    public string Title => TitleOf(Key);

    /// <summary>A key for people.</summary>
    public static string TitleOf(string key)
    {
        using var document = System.Text.Json.JsonDocument.Parse(key);
        return string.Join(", ", document.RootElement.EnumerateArray().Select(value => value.ToString()));
    }
}
