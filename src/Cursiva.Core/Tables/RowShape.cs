using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tables;

/// <summary>The columns of a pull's table and the fields that fill them: declared, or found from the rows.</summary>
internal sealed class RowShape
{
    private readonly List<FoundColumn> _columns = [];

    public RowShape(IReadOnlyList<Column> declared)
    {
        Declared = declared;
        foreach (var column in declared)
            Declare(column);
    }

    /// <summary>The declared columns; empty when they are found.</summary>
    public IReadOnlyList<Column> Declared { get; }

    /// <summary>Whether every field that rows have becomes a column; otherwise only the declared ones do.</summary>
    public bool FindsColumns => Declared.Count == 0;

    public RowFields Top { get; } = new();

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
