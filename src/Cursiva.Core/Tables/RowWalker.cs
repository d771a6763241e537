using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;

namespace Cursiva.Core.Tables;

/// <summary>
/// Walks over landed rows, whose grammar was checked when they came, notes what the columns hold and, when it has blocks,
/// fills them. Numbers stay the text they are.
/// </summary>
internal sealed class RowWalker(RowShape shape, TextBlocks? blocks, int columns)
{
    private byte[] _text = new byte[1024];
    private long _row;

    /// <summary>Names that stood twice in one row; the last value counts.</summary>
    public long Twice { get; private set; }

    /// <summary>Rows before the next one, for messages.</summary>
    public long RowsBefore { set => _row = value; }

    /// <summary>A column was found that the table does not have, or has in another form: it must be filled again.</summary>
    public bool Outgrown { get; private set; }

    /// <summary>Walks over the rows of a page; stops early once <see cref="Outgrown"/>.</summary>
    /// <exception cref="TableException">A text cannot be kept.</exception>
    /// <param name="carried">A JSON object of columns that each row takes along.</param>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Walk(ReadOnlySpan<byte> lines, ReadOnlySpan<byte> carried)
    {
        var at = 0;
        while (at < lines.Length && !(Outgrown && blocks is not null))
        {
            _row++;
            if (carried.Length > 2)
                Object(carried, 0, shape.Carried);
            at = Object(lines, at, shape.Top) + 1;
            if (!Outgrown)
                blocks?.EndRow();
        }
    }

    // Rows are compact: no white space outside strings. Returns the place behind the object.
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private int Object(ReadOnlySpan<byte> json, int at, RowFields fields)
    {
        var expected = 0;
        at++;
        if (json[at] == '}')
            return at + 1;
        while (true)
        {
            var field = fields.Next(json[(at + 1)..], ref expected);
            if (field is null)
            {
                var raw = json[(at + 1)..StringEnd(json, at)];
                field = fields.Find(raw, ref expected) ?? fields.Add(raw);
            }

            // Behind the name, its closing quote and the colon.
            at = Value(json, at + field.Raw.Length + 3, field, fields);
            if (json[at++] == '}')
                return at;
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private int Value(ReadOnlySpan<byte> json, int at, RowField field, RowFields fields)
    {
        switch (json[at])
        {
            case (byte)'{' when json[at + 1] == '}' && shape.FindsColumns:
                Take(field, fields, ValueKinds.Json, "{}"u8);
                return at + 2;
            case (byte)'{' when field.Inside.Any || (shape.FindsColumns && !field.TakesWhole):
                return Object(json, at, field.Inside);
            case (byte)'{' or (byte)'[':
                {
                    var end = NestedEnd(json, at);
                    Take(field, fields, ValueKinds.Json, json[at..end]);
                    return end;
                }

            case (byte)'"':
                {
                    var end = StringEnd(json, at) + 1;
                    if (!Skips(field))
                        TakeText(field, fields, json[at..end]);
                    return end;
                }

            case (byte)'n':
                if (!Skips(field))
                    TakeNull(field, fields);
                return at + 4;
            case (byte)'t':
                Take(field, fields, ValueKinds.Boolean, json.Slice(at, 4));
                return at + 4;
            case (byte)'f':
                Take(field, fields, ValueKinds.Boolean, json.Slice(at, 5));
                return at + 5;
            default:
                {
                    var length = json[at..].IndexOfAny((byte)',', (byte)'}');
                    var number = json.Slice(at, length);
                    if (!Skips(field))
                    {
                        ColumnOf(field, fields).SeeNumber(number);
                        Take(field, fields, ValueKinds.None, number);
                    }

                    return at + length;
                }
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private bool Skips(RowField field) => field.Column is null && !shape.FindsColumns;

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private FoundColumn ColumnOf(RowField field, RowFields fields) => field.Column ??= shape.AddColumn(fields.Prefix + field.Name);

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Take(RowField field, RowFields fields, ValueKinds kind, ReadOnlySpan<byte> value)
    {
        if (Skips(field))
            return;
        var column = ColumnOf(field, fields);
        column.See(kind);
        Put(column, value);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void TakeText(RowField field, RowFields fields, ReadOnlySpan<byte> quoted)
    {
        var column = ColumnOf(field, fields);
        column.See(ValueKinds.Text);
        if (column.KeepsQuotes)
            Put(column, quoted);
        else if (quoted.Contains((byte)'\\'))
            Put(column, Unescape(quoted, column));
        else
            Put(column, quoted[1..^1]);
    }

    private void TakeNull(RowField field, RowFields fields)
    {
        var column = ColumnOf(field, fields);
        if (column.Place >= columns)
            Outgrown = true;
        else if (blocks?.SetNull(column.Place) == true)
            Twice++;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private void Put(FoundColumn column, ReadOnlySpan<byte> value)
    {
        if (column.Place >= columns || (column.IsMixed && !column.KeepsQuotes && !IsDeclaredText(column)))
            Outgrown = true;
        else if (blocks?.Set(column.Place, value) == true)
            Twice++;
    }

    private bool IsDeclaredText(FoundColumn column) => shape.TypeOf(column) is { } type && type != Jobs.ColumnType.Json;

    private ReadOnlySpan<byte> Unescape(ReadOnlySpan<byte> quoted, FoundColumn column)
    {
        if (_text.Length < quoted.Length)
            _text = new byte[quoted.Length * 2];
        try
        {
            return Copied(quoted);
        }
        catch (InvalidOperationException) when (!shape.RefusesOddText)
        {
            column.SeeOddText(_row);
            return Copied(OddText.Readable(quoted));
        }
        catch (InvalidOperationException)
        {
            throw new TableException(
                $"column '{column.Name}' has half of a surrogate pair in row {_row}: {Encoding.UTF8.GetString(quoted)[..Math.Min(80, quoted.Length)]}");
        }
    }

    private ReadOnlySpan<byte> Copied(ReadOnlySpan<byte> quoted)
    {
        var reader = new Utf8JsonReader(quoted);
        reader.Read();
        return _text.AsSpan(0, reader.CopyString(_text));
    }

    // The place of the closing quote.
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static int StringEnd(ReadOnlySpan<byte> json, int open)
    {
        var at = open + 1;
        while (true)
        {
            at += json[at..].IndexOfAny((byte)'"', (byte)'\\');
            if (json[at] == '"')
                return at;
            at += 2;
        }
    }

    private static int NestedEnd(ReadOnlySpan<byte> json, int at)
    {
        var depth = 0;
        while (true)
        {
            switch (json[at])
            {
                case (byte)'"':
                    at = StringEnd(json, at);
                    break;
                case (byte)'{' or (byte)'[':
                    depth++;
                    break;
                case (byte)'}' or (byte)']':
                    if (--depth == 0)
                        return at + 1;
                    break;
            }

            at++;
        }
    }
}
