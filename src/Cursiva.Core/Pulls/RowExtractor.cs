using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Takes rows out of what is not a plain array of them, and places out of rows. The bytes of what stays are copied as they are; the
/// grammar was checked before.
/// </summary>
internal sealed class RowExtractor(RowSource source, IReadOnlyList<JsonPointer> drop)
{
    private readonly ArrayBufferWriter<byte> _lines = new();
    private readonly ArrayBufferWriter<byte> _raw = new();
    private readonly byte[] _keyName = (source.KeysAs ?? source.ValueAs) is { } name ? Quoted(name) : [];
    private readonly ArrayBufferWriter<byte> _carried = new();
    private readonly IReadOnlyList<byte[]>[] _drop = [.. drop.Select(pointer => pointer.Segments.Select(Encoding.UTF8.GetBytes).ToArray())];
    private int _rows;
    private int _offset;

    /// <summary>The rows as JSON lines.</summary>
    public ReadOnlySpan<byte> Lines => _lines.WrittenSpan;

    /// <summary>Which of <see cref="RowSource.Expected"/> were there, a bit for each.</summary>
    public ulong Seen { get; private set; }

    /// <summary>Extracts the rows.</summary>
    /// <param name="value">What stands at rows:.</param>
    /// <param name="offset">Where it stands on the page, for messages.</param>
    /// <param name="spaced">Whether there may be white space outside strings.</param>
    /// <returns>Number of rows.</returns>
    /// <exception cref="PageException">It has another form than the job says.</exception>
    public int Extract(ReadOnlySpan<byte> value, int offset, bool spaced)
    {
        _raw.ResetWrittenCount();
        _lines.ResetWrittenCount();
        _carried.ResetWrittenCount();
        (_rows, _offset, Seen) = (0, offset, 0);
        if (value[0] != 'n')
        {
            switch (source.Form)
            {
                case RowsForm.One:
                    Row(value, 0);
                    break;
                case RowsForm.Values:
                    Values(value);
                    break;
                case RowsForm.Several:
                    Several(value);
                    break;
                case RowsForm.Array or RowsForm.Plain or RowsForm.Batches:
                    Array(value, 0, source.Form == RowsForm.Batches);
                    break;
            }
        }

        _lines.Write(_raw.WrittenSpan);
        if (spaced && _rows > 0)
        {
            var copy = _lines.WrittenSpan.ToArray();
            _lines.ResetWrittenCount();
            _lines.Write(copy.AsSpan(0, RowCompaction.Compact(copy)));
        }

        return _rows;
    }

    private void Array(ReadOnlySpan<byte> array, int at, bool ofBatches)
    {
        if (array[0] != '[')
            throw Wrong(at, "is not an array");
        var reader = new Utf8JsonReader(array);
        reader.Read();
        while (reader.Read() && reader.TokenType != JsonTokenType.EndArray)
        {
            var start = (int)reader.TokenStartIndex;
            reader.Skip();
            var element = array[start..(int)reader.BytesConsumed];
            if (!ofBatches)
                Row(element, at + start);
            else if (JsonFind.Raw(element, source.Inside!) is { IsEmpty: false } inside && inside[0] != 'n')
            {
                CarryFrom(element);
                Array(inside, at + start, ofBatches: false);
            }
        }
    }

    private void Several(ReadOnlySpan<byte> whole)
    {
        for (var place = 0; place < source.Several.Count; place++)
        {
            var array = JsonFind.Raw(whole, source.Several[place]);
            if (array.IsEmpty)
                continue;
            Seen |= 1UL << place;
            _carried.ResetWrittenCount();
            if (source.PlaceAs is { } name)
                Carry(name, Quoted(source.Several[place].Segments[^1]));
            if (array[0] != 'n')
                Array(array, 0, ofBatches: false);
        }

        if (Seen == 0)
            throw new PageException(
                $"there is nothing at rows: {string.Join(" or ", source.Several.Select(place => source.At.Text + place.Text))}");
    }

    // What the rows of a batch take along stands in front of their own members.
    private void CarryFrom(ReadOnlySpan<byte> batch)
    {
        _carried.ResetWrittenCount();
        for (var place = 0; place < source.Carry.Count; place++)
        {
            var value = JsonFind.Raw(batch, source.Carry[place].Value);
            if (!value.IsEmpty)
                Seen |= 1UL << place;
            Carry(source.Carry[place].Key, value.IsEmpty ? "null"u8 : value);
        }
    }

    private void Carry(string name, ReadOnlySpan<byte> value)
    {
        if (_carried.WrittenCount > 0)
            _carried.Write(","u8);
        _carried.Write(Quoted(name));
        _carried.Write(":"u8);
        _carried.Write(value);
    }

    private void Values(ReadOnlySpan<byte> whole)
    {
        if (whole[0] != '{')
            throw Wrong(0, "is not an object whose values could be the rows");
        var reader = new Utf8JsonReader(whole);
        reader.Read();
        while (reader.Read() && reader.TokenType == JsonTokenType.PropertyName)
        {
            var name = whole[(int)reader.TokenStartIndex..((int)reader.TokenStartIndex + reader.ValueSpan.Length + 2)];
            reader.Read();
            var start = (int)reader.TokenStartIndex;
            reader.Skip();
            var value = whole[start..(int)reader.BytesConsumed];
            _raw.Write("{"u8);
            _raw.Write(_keyName);
            _raw.Write(":"u8);
            _raw.Write(name);
            if (value[0] != '{')
            {
                _raw.Write(",\"value\":"u8);
                _raw.Write(value);
                _raw.Write("}"u8);
            }
            else
            {
                Members(value, [.. _drop], comma: true);
            }

            _raw.Write("\n"u8);
            _rows++;
        }
    }

    private void Row(ReadOnlySpan<byte> row, int at)
    {
        if (source.Form == RowsForm.Plain)
        {
            Plain(row);
            return;
        }

        if (row[0] != '{')
            throw Wrong(at, $": row {(_rows + 1).ToString(CultureInfo.InvariantCulture)} is not an object");
        if (_carried.WrittenCount > 0)
        {
            CheckOwn(row);
            _raw.Write("{"u8);
            _raw.Write(_carried.WrittenSpan);
            Members(row, [.. _drop], comma: true);
        }
        else if (_drop.Length == 0)
        {
            _raw.Write(row);
        }
        else
        {
            _raw.Write("{"u8);
            Members(row, [.. _drop], comma: false);
        }

        _raw.Write("\n"u8);
        _rows++;
    }

    // Two members of one name: which of them is meant nobody knows.
    private void CheckOwn(ReadOnlySpan<byte> row)
    {
        foreach (var name in source.PlaceAs is { } placeAs ? [placeAs] : source.Carry.Select(carried => carried.Key))
        {
            if (!JsonFind.Raw(row, JsonPointer.ToField(name)).IsEmpty)
                throw new PageException(
                    $"row {_rows + 1} already has a field '{name}', which would be added: give {(source.PlaceAs is null ? "carry: in rows:" : "place-as:")} another name");
        }
    }

    private void Plain(ReadOnlySpan<byte> value)
    {
        _raw.Write("{"u8);
        _raw.Write(_keyName);
        _raw.Write(":"u8);
        _raw.Write(value);
        _raw.Write("}\n"u8);
        _rows++;
    }

    // The members of an object and its closing brace, without those that are dropped.
    private void Members(ReadOnlySpan<byte> row, IReadOnlyList<byte[]>[] dropped, bool comma)
    {
        var reader = new Utf8JsonReader(row);
        reader.Read();
        while (reader.Read() && reader.TokenType == JsonTokenType.PropertyName)
        {
            var name = row[(int)reader.TokenStartIndex..((int)reader.TokenStartIndex + reader.ValueSpan.Length + 2)];
            var inside = Inside(dropped, reader);
            reader.Read();
            var start = (int)reader.TokenStartIndex;
            reader.Skip();
            if (System.Array.Exists(inside, path => path.Count == 0))
                continue;
            if (comma)
                _raw.Write(","u8);
            comma = true;
            _raw.Write(name);
            _raw.Write(":"u8);
            Value(row[start..(int)reader.BytesConsumed], inside);
        }

        _raw.Write("}"u8);
    }

    private void Value(ReadOnlySpan<byte> value, IReadOnlyList<byte[]>[] dropped)
    {
        if (dropped.Length == 0 || value[0] is not ((byte)'{' or (byte)'['))
        {
            _raw.Write(value);
        }
        else if (value[0] == '{')
        {
            _raw.Write("{"u8);
            Members(value, dropped, comma: false);
        }
        else
        {
            Elements(value, dropped);
        }
    }

    private void Elements(ReadOnlySpan<byte> array, IReadOnlyList<byte[]>[] dropped)
    {
        _raw.Write("["u8);
        var reader = new Utf8JsonReader(array);
        reader.Read();
        var comma = false;
        for (var index = 0; reader.Read() && reader.TokenType != JsonTokenType.EndArray; index++)
        {
            var start = (int)reader.TokenStartIndex;
            reader.Skip();
            var name = Encoding.ASCII.GetBytes(index.ToString(CultureInfo.InvariantCulture));
            IReadOnlyList<byte[]>[] inside = [.. dropped.Where(path => path[0].AsSpan().SequenceEqual(name)).Select(
                path => path.Skip(1).ToArray())];
            if (System.Array.Exists(inside, path => path.Count == 0))
                continue;
            if (comma)
                _raw.Write(","u8);
            comma = true;
            Value(array[start..(int)reader.BytesConsumed], inside);
        }

        _raw.Write("]"u8);
    }

    private static IReadOnlyList<byte[]>[] Inside(IReadOnlyList<byte[]>[] dropped, Utf8JsonReader reader)
    {
        var inside = new List<IReadOnlyList<byte[]>>();
        foreach (var path in dropped)
        {
            if (reader.ValueTextEquals(path[0]))
                inside.Add([.. path.Skip(1)]);
        }

        return [.. inside];
    }

    private PageException Wrong(int at, string what) => new($"the value at rows: {source.At.Text} {what}, at byte {_offset + at + 1}");

    private static byte[] Quoted(string name) => Encoding.UTF8.GetBytes(JsonSerializer.Serialize(name, PlainJson.Default.String));
}
