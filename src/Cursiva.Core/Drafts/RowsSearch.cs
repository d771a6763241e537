using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>
/// Finds where an answer has its rows: the largest array of objects that are alike, in batches or under names if need be.
/// </summary>
internal sealed class RowsSearch
{
    private const int Deepest = 5;
    private const double Alike = 0.6;
    private const double SameKind = 0.8;
    private const int MostBeside = 3;

    // What the inside of a batch is usually called.
    private static readonly HashSet<string> s_inside = new(
        ["rows", "items", "data", "entries", "results", "records", "values", "list", "elements", "content", "members"],
        StringComparer.OrdinalIgnoreCase);

    private readonly List<(double Score, RowsPlace Place)> _found = [];

    private RowsSearch(JsonElement root)
    {
        Walk(root, [], 0);
        if (root.ValueKind == JsonValueKind.Object)
            _found.Add((0.01, new RowsPlace("{ one: true }", "the answer is one row", 1, [])));
    }

    /// <summary>Every place that may have them, the likeliest first; never empty for an object or an array.</summary>
    public static IReadOnlyList<RowsPlace> In(JsonElement root) =>
        [.. new RowsSearch(root)._found.OrderByDescending(found => found.Score).Select(found => found.Place)];

    private void Walk(JsonElement element, IReadOnlyList<string> at, int depth)
    {
        if (element.ValueKind == JsonValueKind.Array)
        {
            Array(element, at, depth);
            return;
        }

        if (element.ValueKind != JsonValueKind.Object || depth >= Deepest)
            return;
        Several(element, at, depth);
        Keyed(element, at, depth);
        foreach (var member in element.EnumerateObject())
            Walk(member.Value, [.. at, member.Name], depth + 1);
    }

    private void Array(JsonElement array, IReadOnlyList<string> at, int depth)
    {
        var pointer = JsonPointer.ToFields(at);
        List<JsonElement> items = [.. array.EnumerateArray()];
        List<JsonElement> objects = [.. items.Where(item => item.ValueKind == JsonValueKind.Object)];
        if (items.Count == 0)
        {
            Found(0.02 / (depth + 1), Yaml(pointer), $"an empty array{Where(pointer)}", 0, [pointer]);
            return;
        }

        if (objects.Count == items.Count)
        {
            Found(
                (objects.Count * (0.5 + Likeness.Of(objects))) - (depth * 0.1),
                Yaml(pointer),
                $"{Count(objects.Count, "object")}{Where(pointer)}",
                objects.Count,
                [pointer]);
            Batches(objects, pointer, depth);
        }
        else if (items.TrueForAll(item => item.ValueKind is not (JsonValueKind.Object or JsonValueKind.Array)))
        {
            var name = YamlText.Name(at.Count == 0 ? "value" : at[^1]);
            Found(
                0.1 + (items.Count * 0.001),
                $"{{ {At(pointer)}value-as: {name} }}",
                $"{Count(items.Count, "plain value")}{Where(pointer)}",
                items.Count,
                [pointer]);
        }
    }

    private void Batches(List<JsonElement> batches, JsonPointer pointer, int depth)
    {
        foreach (var name in Likeness.All(batches))
        {
            List<JsonElement> inner = [.. batches.Where(
                batch => batch.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.Array).SelectMany(
                    batch => batch.GetProperty(name).EnumerateArray())];
            List<string> beside = [.. Likeness.All(batches).Where(other => other != name)];
            if (inner.Count == 0
                || inner.Exists(item => item.ValueKind != JsonValueKind.Object)
                || beside.Count > MostBeside
                || !(s_inside.Contains(name) || inner.Count >= 2 * batches.Count))
                continue;
            var rows = Likeness.All(inner);
            var carried = beside.Where(
                other => !rows.Contains(other)
                    && batches.TrueForAll(
                        batch => batch.TryGetProperty(other, out var value)
                            && value.ValueKind is not (JsonValueKind.Array or JsonValueKind.Object)));
            var carry = string.Join(
                ", ", carried.Select(other => $"{YamlText.Key(YamlText.Name(other))}: {YamlText.Scalar(JsonPointer.ToField(other).Text)}"));
            Found(
                (batches.Count * 2) + inner.Count - (depth * 0.1),
                $"{{ {At(pointer)}inside: {YamlText.Scalar(JsonPointer.ToField(name).Text)}{(carry.Length > 0 ? $", carry: {{ {carry} }}" : "")} }}",
                $"{Count(inner.Count, "object")} in {Count(batches.Count, "batch", "batches")}{Where(pointer)}",
                inner.Count,
                [pointer]);
        }
    }

    // Rows keyed by name: an object whose members are all alike.
    private void Keyed(JsonElement element, IReadOnlyList<string> at, int depth)
    {
        List<JsonProperty> members = [.. element.EnumerateObject()];
        if (members.Count < 2
            || members.Exists(member => member.Value.ValueKind != JsonValueKind.Object)
            || Likeness.Of(members.Select(member => member.Value)) < SameKind
            || Likeness.All(members.Select(member => member.Value)).Count < 2)
            return;
        var pointer = JsonPointer.ToFields(at);
        var names = Likeness.All(members.Select(member => member.Value));
        var key = new[] { "name", "key", "code", "row_name" }.First(candidate => candidate == "row_name" || !names.Contains(candidate));
        Found(
            (members.Count * 1.2) - (depth * 0.1),
            $"{{ {At(pointer)}keys-as: {key} }}",
            $"{Count(members.Count, "object")}, each under its own name,{Where(pointer)}",
            members.Count,
            [pointer]);
    }

    // Several arrays of one kind of rows beside each other.
    private void Several(JsonElement element, IReadOnlyList<string> at, int depth)
    {
        List<JsonProperty> arrays = [.. element.EnumerateObject().Where(
            member => member.Value.ValueKind == JsonValueKind.Array
                && member.Value.GetArrayLength() > 0
                && member.Value.EnumerateArray().All(item => item.ValueKind == JsonValueKind.Object))];
        if (arrays.Count < 2)
            return;
        var kind = arrays.MaxBy(array => array.Value.GetArrayLength()).Value;
        List<JsonProperty> alike = [.. arrays.Where(
            array => Likeness.Between(array.Value.EnumerateArray(), kind.EnumerateArray()) >= SameKind)];
        if (alike.Count < 2 || Likeness.Of(kind.EnumerateArray()) < Alike)
            return;
        List<JsonPointer> pointers = [.. alike.Select(array => JsonPointer.ToFields([.. at, array.Name]))];
        var rows = alike.Sum(array => array.Value.GetArrayLength());
        var column = Likeness.All(kind.EnumerateArray()).Contains("kind") ? "place" : "kind";
        Found(
            (rows * 1.5) - (depth * 0.1),
            $"{{ at: [{string.Join(", ", pointers.Select(pointer => YamlText.Scalar(pointer.Text)))}], place-as: {column}, optional: true }}",
            $"{Count(rows, "object")} at {string.Join(" and ", pointers.Select(pointer => pointer.Text))}",
            rows,
            pointers);
    }

    private void Found(double score, string yaml, string words, int rows, IReadOnlyList<JsonPointer> within) =>
        _found.Add((score, new RowsPlace(yaml, words, rows, within)));

    private static string Yaml(JsonPointer pointer) => pointer.Text.Length == 0 ? "\"\"" : YamlText.Scalar(pointer.Text);

    private static string At(JsonPointer pointer) => pointer.Text.Length == 0 ? "" : $"at: {YamlText.Scalar(pointer.Text)}, ";

    private static string Where(JsonPointer pointer) => pointer.Text.Length == 0 ? " at the top" : $" at {pointer.Text}";

    private static string Count(int count, string one, string? several = null) => $"{count:N0} {(count == 1 ? one : several ?? one + "s")}";
}
