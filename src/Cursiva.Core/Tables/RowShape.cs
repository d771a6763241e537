using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tables;

/// <summary>The columns of a pull's table and the fields that fill them: declared, or found from the rows.</summary>
internal sealed class RowShape
{
    private readonly List<FoundColumn> _columns = [];

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
    public FoundColumn AddColumn(string path)
    {
        var name = path.Length == 0 ? "_" : path;
        for (var n = 2; _columns.Exists(column => column.Name.Equals(name, StringComparison.OrdinalIgnoreCase)); n++)
            name = $"{path}_{n}";
        var added = new FoundColumn(name, _columns.Count);
        _columns.Add(added);
        return added;
    }

    private void Declare(Column column)
    {
        var (fields, field) = (Top, (RowField?)null);
        foreach (var segment in column.At.Segments)
        {
            var raw = System.Text.Json.JsonEncodedText.Encode(segment, System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping).EncodedUtf8Bytes;
            var expected = 0;
            field = fields.Find(raw, ref expected) ?? fields.Add(raw);
            fields = field.Inside;
        }

        var added = new FoundColumn(column.Name, _columns.Count);
        _columns.Add(added);
        if (field is null)
            return;
        field.Column = added;
        field.TakesWhole = column.Type is ColumnType.Json or ColumnType.Text;
    }
}
