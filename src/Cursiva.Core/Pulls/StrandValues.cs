using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>The values that one strand fills in, by name, each as the JSON that it came as.</summary>
public sealed class StrandValues
{
    /// <summary>No values.</summary>
    public static StrandValues None { get; } = new(new SortedDictionary<string, string>(StringComparer.Ordinal));

    private readonly SortedDictionary<string, string> _raw;

    private StrandValues(SortedDictionary<string, string> raw) => _raw = raw;

    /// <summary>The names that have a value.</summary>
    public IEnumerable<string> Names => _raw.Keys;

    /// <summary>Whether there is any value.</summary>
    public bool Any => _raw.Count > 0;

    /// <summary>The values of a strand that was begun earlier.</summary>
    /// <param name="json">What <see cref="ToJson"/> gave.</param>
    public static StrandValues Parse(string json)
    {
        var raw = new SortedDictionary<string, string>(StringComparer.Ordinal);
        using var document = JsonDocument.Parse(json);
        foreach (var member in document.RootElement.EnumerateObject())
            raw[member.Name] = member.Value.GetRawText();
        return new StrandValues(raw);
    }

    /// <summary>These values and those that a row gives to names.</summary>
    /// <param name="names">What is needed, and where a row has it.</param>
    public StrandValues With(ReadOnlySpan<byte> row, IEnumerable<KeyValuePair<string, JsonPointer>> names)
    {
        var raw = new SortedDictionary<string, string>(_raw, StringComparer.Ordinal);
        foreach (var (name, at) in names)
        {
            if (JsonFind.Raw(row, at) is { IsEmpty: false } found && found[0] != 'n')
                raw[name] = Encoding.UTF8.GetString(found);
        }

        return new StrandValues(raw);
    }

    /// <summary>These values and one more.</summary>
    public StrandValues With(string name, string text) =>
        new(
            new SortedDictionary<string,
            string>(_raw, StringComparer.Ordinal)
            { [name] = JsonSerializer.Serialize(text, PlainJson.Default.String) });

    /// <summary>The values of several rows: those that differ are lists, in the order of the rows.</summary>
    /// <param name="batch">What each row has; at least one.</param>
    /// <param name="names">The names of which there are lists.</param>
    public static StrandValues Of(IReadOnlyList<StrandValues> batch, IEnumerable<string> names)
    {
        var raw = new SortedDictionary<string, string>(batch[0]._raw, StringComparer.Ordinal);
        foreach (var name in names)
            raw[name] = $"[{string.Join(',', batch.Where(row => row._raw.ContainsKey(name)).Select(row => row._raw[name]))}]";
        return new StrandValues(raw);
    }

    /// <summary>A value as text, the items of a list parted by commas; null when there is none.</summary>
    public string? Text(string name) =>
        !_raw.TryGetValue(name, out var raw) ? null : Items(name) is { } items
            && items.All(item => item.Length == 0 || item[0] is not ('{' or '['))
                ? string.Join(',', items)
                : JsonFind.TextOf(Encoding.UTF8.GetBytes(raw));

    /// <summary>The items of a value that is a list, each as text; otherwise null.</summary>
    public IReadOnlyList<string>? Items(string name)
    {
        if (!_raw.TryGetValue(name, out var raw) || raw[0] != '[')
            return null;
        using var document = JsonDocument.Parse(raw);
        return [.. document.RootElement.EnumerateArray().Select(
            item => item.ValueKind == JsonValueKind.String ? item.GetString()! : item.GetRawText())];
    }

    /// <summary>A value as the JSON that it came as; null when there is none, and for a text.</summary>
    public string? Json(string name) => _raw.TryGetValue(name, out var raw) && raw[0] != '"' ? raw : null;

    /// <summary>A value for a URI template: a text, or a list of texts.</summary>
    public object? ForPath(string name) => Items(name) is { } items ? items.ToList() : Text(name);

    /// <summary>A JSON object, its names sorted: equal for equal values.</summary>
    public string ToJson() => Write(_raw);

    /// <summary>What tells the strand apart, for people.</summary>
    public override string ToString() => string.Join(", ", _raw.Keys.Select(name => $"{name} {Short(name)}"));

    // Of a batch the first is enough to tell it apart.
    private string? Short(string name) => Items(name) is { Count: > 3 } items ? $"{items[0]} and {items.Count - 1} more" : Text(name);

    internal static string Write(IEnumerable<KeyValuePair<string, string>> raw)
    {
        var text = new StringBuilder("{");
        foreach (var (name, value) in raw)
        {
            if (text.Length > 1)
                text.Append(',');
            text.Append(JsonSerializer.Serialize(name, PlainJson.Default.String)).Append(':').Append(value);
        }

        return text.Append('}').ToString();
    }
}
