using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tables;

/// <summary>The columns of a pull's table and the fields that fill them: declared, or found from the rows.</summary>
internal sealed class RowShape
{
    // More than anybody reads, and than the engine handles well; keys that are data make so many.
    private const int MostFound = 2000;

    private readonly List<FoundColumn> _columns = [];
    private readonly HashSet<string> _names = new(StringComparer.OrdinalIgnoreCase);

    /// <param name="carried">Columns that rows take along from what their pull is repeated for.</param>
    public RowShape(IReadOnlyList<Column> declared, IEnumerable<string> carried)
    {
        Declared = declared;
        foreach (var column in declared)
            Declare(column);
        foreach (var name in carried)
        {
            var field = Carried.Add(System.Text.Json.JsonEncodedText.Encode(name).EncodedUtf8Bytes);
            field.Column = AddColumn(name);
            field.TakesWhole = true;
        }
    }

    private RowShape(IReadOnlyList<Column> declared) => Declared = declared;

    /// <summary>Whether a text with half of a surrogate pair is an error.</summary>
    public bool RefusesOddText { get; init; }

    /// <summary>The declared columns; empty when they are found.</summary>
    public IReadOnlyList<Column> Declared { get; }

    /// <summary>Whether every field that rows have becomes a column; otherwise only the declared ones do.</summary>
    public bool FindsColumns => Declared.Count == 0;

    public RowFields Top { get; } = new();

    /// <summary>The fields that rows take along.</summary>
    public RowFields Carried { get; } = new();

    /// <summary>The declared type of a column; null when it is found.</summary>
    public ColumnType? TypeOf(FoundColumn column) => column.Place < Declared.Count ? Declared[column.Place].Type : null;

    /// <summary>The column that takes what stands at a place; null when no row had anything there.</summary>
    public FoundColumn? ColumnAt(JsonPointer at)
    {
        var (fields, field) = (Top, (RowField?)null);
        foreach (var segment in at.Segments)
        {
            field = fields.Named(segment);
            if (field is null)
                return null;
            fields = field.Inside;
        }

        return field?.Column;
    }

    public IReadOnlyList<FoundColumn> Columns => _columns;

    /// <summary>Makes a column for a field; its name is the path to it, and unique whatever its case.</summary>
    /// <exception cref="TableException">The rows have more fields than a table takes.</exception>
    public FoundColumn AddColumn(string path)
    {
        if (FindsColumns && _columns.Count >= MostFound)
            throw new TableException(
                $"its rows have more than {MostFound:N0} different fields (the last one is '{Secrets.OneLine.Of(path)}'); if the names are data, list the columns under columns:");
        path = path.Replace("\0", "\\u0000");
        var name = path.Length == 0 ? "_" : path;
        for (var n = 2; !_names.Add(name); n++)
            name = $"{path}_{n}";
        var added = new FoundColumn(name, _columns.Count);
        _columns.Add(added);
        return added;
    }

    /// <summary>Whether a column turned out to need quotes that its texts were filled in without.</summary>
    public bool IsOutgrown => _columns.Exists(column => column.IsMixed && !column.KeepsQuotes && TypeOf(column) is null or ColumnType.Json);

    /// <summary>What all columns were seen with; equal while no row has shown anything new.</summary>
    public int Seen()
    {
        var seen = new HashCode();
        foreach (var column in _columns)
            seen.Add(column.Seen());
        return seen.ToHashCode();
    }

    /// <summary>A shape of the same columns and fields, to be filled by somebody else.</summary>
    public RowShape Copy()
    {
        var copy = new RowShape(Declared) { RefusesOddText = RefusesOddText };
        copy._names.UnionWith(_names);
        copy._columns.AddRange(_columns.Select(column => column.Copy()));
        Top.CopyTo(copy.Top, copy._columns);
        Carried.CopyTo(copy.Carried, copy._columns);
        return copy;
    }

    /// <summary>Takes over what another shape with the same columns has seen.</summary>
    public void Learn(RowShape other)
    {
        for (var place = 0; place < Math.Min(_columns.Count, other._columns.Count); place++)
            _columns[place].Learn(other._columns[place]);
    }

    private void Declare(Column column)
    {
        var (fields, field) = (Top, (RowField?)null);
        foreach (var segment in column.At.Segments)
        {
            var raw = System.Text.Json.JsonEncodedText.Encode(
                segment, System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping).EncodedUtf8Bytes;
            var expected = 0;
            field = fields.Find(raw, ref expected) ?? fields.Add(raw);
            fields = field.Inside;
        }

        var added = new FoundColumn(column.Name, _columns.Count);
        _columns.Add(added);
        _names.Add(column.Name);
        if (field is null)
            return;
        field.Column = added;
        field.TakesWhole = column.Type is ColumnType.Json or ColumnType.Text;
    }
}
