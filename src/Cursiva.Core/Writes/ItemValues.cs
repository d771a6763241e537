using System.Net;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;

namespace Cursiva.Core.Writes;

/// <summary>
/// The values that the steps of an item are filled in with: its row and the answers so far, each as the JSON that it came as.
/// </summary>
/// <param name="inputs">The job's inputs, by name.</param>
/// <param name="fields">Places of the token endpoint's answer, by placeholder.</param>
internal sealed class ItemValues(
    IReadOnlyDictionary<string, string> inputs, IReadOnlyDictionary<string, string> fields, IEnumerable<KeyValuePair<string, string>> raw)
{
    /// <summary>The ETag of a thing: the field of this name, or else the header of the answer.</summary>
    public const string Etag = "etag";

    private const string Null = "null";

    private readonly Dictionary<string, string> _raw = new(raw, StringComparer.Ordinal);

    /// <summary>Everything that is known, by placeholder, as JSON.</summary>
    public IReadOnlyDictionary<string, string> Raw => _raw;

    /// <summary>Takes what later steps need of an answer.</summary>
    /// <param name="step">The step that it answers.</param>
    /// <param name="names">The placeholders that are used anywhere.</param>
    /// <param name="thing">The answer, or the thing that was found in it; empty for an answer without JSON.</param>
    /// <param name="etag">The header ETag; null for none.</param>
    public void Take(string step, IEnumerable<string> names, ReadOnlySpan<byte> thing, string? etag)
    {
        foreach (var name in names)
        {
            if (name.Length <= step.Length + 1 || name[step.Length] != '.' || !name.StartsWith(step, StringComparison.Ordinal))
                continue;
            var field = name[(step.Length + 1)..];
            var found = thing.IsEmpty ? default : Inside(thing, field);
            if (!found.IsEmpty)
                _raw[name] = Encoding.UTF8.GetString(found);
            else if (field == Etag && etag is not null)
                _raw[name] = JsonSerializer.Serialize(etag, PlainJson.Default.String);
            else
                _raw.Remove(name);
        }
    }

    /// <summary>Lets what answers would bring stand as its placeholder.</summary>
    /// <param name="names">The placeholders that are used anywhere.</param>
    /// <param name="steps">The steps whose answers are not known.</param>
    public void Assume(IEnumerable<string> names, IEnumerable<string> steps)
    {
        foreach (var name in names.Where(name => !_raw.ContainsKey(name) && steps.Contains(name.Split('.')[0])))
            _raw[name] = JsonSerializer.Serialize("{" + name + "}", PlainJson.Default.String);
    }

    /// <summary>A value as text; null for null and for a name without a value.</summary>
    public string? Text(string name)
    {
        var (escape, bare) = ValueEscape.Split(name);
        var text = _raw.TryGetValue(bare, out var raw)
            ? (raw == Null ? null : Plain(raw))
            : inputs.GetValueOrDefault(bare) ?? fields.GetValueOrDefault(bare);
        return escape switch
        {
            null => text,
            ValueEscape.Html => text is null ? null : WebUtility.HtmlEncode(text),
            _ => _raw.GetValueOrDefault(bare) ?? (text is null ? null : JsonSerializer.Serialize(text, PlainJson.Default.String)),
        };
    }

    /// <summary>A value as text, where it makes no sense without one.</summary>
    /// <exception cref="ItemRefusedException">There is none.</exception>
    public string Needed(string name) => Text(name) ?? throw new ItemRefusedException($"{{{name}}} has no value");

    /// <summary>A value as the JSON that it came as; null for a text, and for a name without a value.</summary>
    public string? Json(string name) => _raw.TryGetValue(name, out var raw) && raw[0] != '"' ? raw : null;

    /// <summary>Whether there is a value, be it null.</summary>
    public bool Has(string name) => _raw.ContainsKey(name) || inputs.ContainsKey(name) || fields.ContainsKey(name);

    private static string Plain(string raw) => raw[0] == '"' ? JsonFind.TextOf(Encoding.UTF8.GetBytes(raw))! : raw;

    // A field of this very name, or a way through the objects: owner.id.
    private static ReadOnlySpan<byte> Inside(ReadOnlySpan<byte> thing, string field)
    {
        if (thing[0] != '{')
            return default;
        var found = JsonFind.Raw(thing, Pointer(field));
        return found.IsEmpty && field.Contains('.', StringComparison.Ordinal)
            ? JsonFind.Raw(thing, JsonPointer.TryParse(string.Concat(field.Split('.').Select(part => Pointer(part).Text)))!)
            : found;
    }

    private static JsonPointer Pointer(string name) =>
        JsonPointer.TryParse("/" + name.Replace("~", "~0", StringComparison.Ordinal).Replace("/", "~1", StringComparison.Ordinal))!;
}
