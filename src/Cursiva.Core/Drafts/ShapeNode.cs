using System.Text.Json;
using System.Text.RegularExpressions;

namespace Cursiva.Core.Drafts;

/// <summary>What was seen at one place of answers or rows: kinds of values, how often, and what they have inside.</summary>
public sealed partial class ShapeNode
{
    private const int MostExamples = 3;
    private const int LongestExample = 40;

    private readonly SortedDictionary<string, long> _kinds = new(StringComparer.Ordinal);
    private readonly List<string> _examples = [];
    private long _texts;
    private long _times;
    private long _days;

    /// <summary>How often something was seen here.</summary>
    public long Seen { get; private set; }

    /// <summary>How often each kind was seen, by the names of JSON Schema: object, array, string, integer, number, boolean, null.</summary>
    public IReadOnlyDictionary<string, long> Kinds => _kinds;

    /// <summary>The members of objects, in the order in which they were met.</summary>
    public IReadOnlyList<KeyValuePair<string, ShapeNode>> Members => _members;

    /// <summary>The items of arrays; null where there were none.</summary>
    public ShapeNode? Items { get; private set; }

    /// <summary>Values that were seen, cut short.</summary>
    public IReadOnlyList<string> Examples => _examples;

    /// <summary>The format of JSON Schema that every text has: date-time or date; null for none.</summary>
    public string? Format => _texts == 0 ? null : _times == _texts ? "date-time" : _days == _texts ? "date" : null;

    private readonly List<KeyValuePair<string, ShapeNode>> _members = [];
    private readonly Dictionary<string, ShapeNode> _byName = new(StringComparer.Ordinal);

    /// <summary>Looks at a value.</summary>
    public void See(JsonElement value)
    {
        Seen++;
        var kind = KindOf(value);
        _kinds[kind] = _kinds.GetValueOrDefault(kind) + 1;
        if (value.ValueKind == JsonValueKind.Object)
            SeeMembers(value);
        else if (value.ValueKind == JsonValueKind.Array)
            SeeItems(value);
        else if (value.ValueKind != JsonValueKind.Null)
            SeeScalar(value);
    }

    private void SeeMembers(JsonElement value)
    {
        foreach (var member in value.EnumerateObject())
        {
            if (!_byName.TryGetValue(member.Name, out var node))
            {
                _byName[member.Name] = node = new ShapeNode();
                _members.Add(KeyValuePair.Create(member.Name, node));
            }

            node.See(member.Value);
        }
    }

    private void SeeItems(JsonElement value)
    {
        Items ??= new ShapeNode();
        foreach (var item in value.EnumerateArray())
            Items.See(item);
    }

    private void SeeScalar(JsonElement value)
    {
        var text = value.ValueKind == JsonValueKind.String ? Text(value) : value.GetRawText();
        if (value.ValueKind == JsonValueKind.String)
        {
            _texts++;
            _times += Time().IsMatch(text) ? 1 : 0;
            _days += Day().IsMatch(text) ? 1 : 0;
        }

        var shown = text.Length > LongestExample ? text[..LongestExample] + "…" : text;
        if (_examples.Count < MostExamples && !_examples.Contains(shown))
            _examples.Add(shown);
    }

    private static string KindOf(JsonElement value) => value.ValueKind switch
    {
        JsonValueKind.Object => "object",
        JsonValueKind.Array => "array",
        JsonValueKind.String => "string",
        JsonValueKind.Number => value.GetRawText().AsSpan().ContainsAny('.', 'e', 'E') ? "number" : "integer",
        JsonValueKind.True or JsonValueKind.False => "boolean",
        _ => "null",
    };

    // Half of a surrogate pair is not text.
    private static string Text(JsonElement value)
    {
        try
        {
            return value.GetString()!;
        }
        catch (InvalidOperationException)
        {
            return value.GetRawText();
        }
    }

    // RFC 3339 section 5.6.
    [GeneratedRegex(@"^\d{4}-\d\d-\d\d[Tt]\d\d:\d\d:\d\d(?:\.\d+)?(?:[Zz]|[+-]\d\d:\d\d)$")]
    private static partial Regex Time();

    [GeneratedRegex(@"^\d{4}-\d\d-\d\d$")]
    private static partial Regex Day();
}
