using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;

namespace Cursiva.Core.Tables;

/// <summary>The fields of the objects at one place of the rows, in the order in which they were first seen.</summary>
/// <param name="prefix">What the names of columns begin with here: the path of the object.</param>
internal sealed class RowFields(string prefix = "")
{
    private readonly List<RowField> _fields = [];

    /// <summary>What the names of columns begin with here.</summary>
    public string Prefix => prefix;

    public bool Any => _fields.Count > 0;

    /// <summary>The field that is next when rows have the same fields in the same order, if it is.</summary>
    /// <param name="json">What stands behind the opening quote of a name.</param>
    /// <param name="expected">Where it is looked for; moved after it.</param>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public RowField? Next(ReadOnlySpan<byte> json, ref int expected)
    {
        if (expected >= _fields.Count)
            return null;
        var field = _fields[expected];
        var length = field.Raw.Length;
        if (json.Length <= length || json[length] != '"' || !json[..length].SequenceEqual(field.Raw))
            return null;
        expected++;
        return field;
    }

    /// <summary>The field of a name; rows mostly have the same fields in the same order, so it is looked for behind the last one.</summary>
    /// <param name="raw">The name as it stands between its quotes.</param>
    /// <param name="expected">Where it is looked for first; moved after it.</param>
    /// <returns>The field, or null when no row had it yet.</returns>
    public RowField? Find(ReadOnlySpan<byte> raw, ref int expected)
    {
        for (var tried = 0; tried < _fields.Count; tried++)
        {
            if (expected >= _fields.Count)
                expected = 0;
            var field = _fields[expected++];
            if (raw.SequenceEqual(field.Raw))
                return field;
        }

        return null;
    }

    /// <summary>The field of a name, unescaped; null when no row had it.</summary>
    public RowField? Named(string name) => _fields.Find(field => field.Name == name);

    /// <summary>Adds a field; one whose name is the same written otherwise shares its column.</summary>
    public RowField Add(ReadOnlySpan<byte> raw)
    {
        var name = Unescape(raw);
        var same = _fields.Find(field => field.Name == name);
        var added = new RowField(raw.ToArray(), name, same?.Inside ?? new RowFields(prefix + name + "_"))
        {
            Column = same?.Column,
            TakesWhole = same?.TakesWhole ?? false,
        };
        _fields.Add(added);
        return added;
    }

    /// <summary>Makes the same fields at another shape's place.</summary>
    /// <param name="columns">That shape's columns.</param>
    public void CopyTo(RowFields other, IReadOnlyList<FoundColumn> columns)
    {
        var inside = new Dictionary<RowFields, RowFields>();
        foreach (var field in _fields)
        {
            // Names that are the same written otherwise share what is inside.
            if (!inside.TryGetValue(field.Inside, out var copied))
            {
                inside[field.Inside] = copied = new RowFields(field.Inside.Prefix);
                field.Inside.CopyTo(copied, columns);
            }

            other._fields.Add(
                new RowField(field.Raw, field.Name, copied)
                {
                    Column = field.Column is { } column ? columns[column.Place] : null,
                    TakesWhole = field.TakesWhole,
                });
        }
    }

    private static string Unescape(ReadOnlySpan<byte> raw)
    {
        byte[] quoted = [(byte)'"', .. raw, (byte)'"'];
        var reader = new Utf8JsonReader(quoted);
        reader.Read();
        try
        {
            return reader.GetString()!;
        }
        catch (InvalidOperationException)
        {
            // Half of a surrogate pair cannot be a name in SQL; its escaped form can.
            return Encoding.UTF8.GetString(raw);
        }
    }
}
