using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>A member of a page beside its rows.</summary>
/// <param name="At">Where it stands.</param>
/// <param name="Value">What stands there.</param>
internal sealed record PageMember(JsonPointer At, JsonElement Value)
{
    private const int Deepest = 4;

    /// <summary>Its own name.</summary>
    public string Name => At.Segments[^1];

    /// <summary>Its name without what parts words, in lower case.</summary>
    public string PlainName => Plain(Name);

    /// <summary>The names of its place and of what it stands in, likewise.</summary>
    public string PlainPlace => Plain(string.Concat(At.Segments));

    /// <summary>Its whole number, of a number or a text of digits; null where it is none.</summary>
    public long? Number => Value.ValueKind == JsonValueKind.Number && Value.TryGetInt64(out var number) ? number
        : Value.ValueKind == JsonValueKind.String && long.TryParse(
            Value.GetString(), System.Globalization.NumberStyles.None, System.Globalization.CultureInfo.InvariantCulture, out var told)
            ? told
            : null;

    /// <summary>A name without what parts its words, in lower case.</summary>
    public static string Plain(string name) => string.Concat(name.Where(char.IsLetterOrDigit)).ToLowerInvariant();

    /// <summary>Every member of a page but those inside its rows, outer ones first.</summary>
    /// <param name="rows">Where the rows are.</param>
    public static IReadOnlyList<PageMember> Of(JsonElement root, IReadOnlyList<JsonPointer> rows)
    {
        var found = new List<PageMember>();
        var within = rows.Select(pointer => pointer.Text).ToHashSet(StringComparer.Ordinal);
        Walk(root, []);
        return [.. found.OrderBy(member => member.At.Segments.Count)];

        void Walk(JsonElement element, IReadOnlyList<string> at)
        {
            if (element.ValueKind != JsonValueKind.Object || at.Count >= Deepest || (within.Contains("") && at.Count == 0))
                return;
            foreach (var member in element.EnumerateObject())
            {
                var pointer = JsonPointer.ToFields([.. at, member.Name]);
                if (within.Contains(pointer.Text))
                    continue;
                found.Add(new PageMember(pointer, member.Value));
                Walk(member.Value, [.. at, member.Name]);
            }
        }
    }
}
