using System.Runtime.CompilerServices;
using System.Text.Encodings.Web;
using System.Text.Json;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>One JSON object a line, its keys in the order of the columns. Numbers have the digits they had.</summary>
internal sealed class JsonLinesWriter(Stream stream) : IRowWriter
{
    private readonly BufferedOutput _output = new(stream);
    private readonly System.Buffers.ArrayBufferWriter<byte> _escaped = new(256);
    private IReadOnlyList<ResultColumn> _columns = [];
    private byte[][] _names = [];

    public void Begin(IReadOnlyList<ResultColumn> columns)
    {
        _columns = columns;
        _names = [.. columns.Select((column, place) => (byte[])[
            .. place == 0 ? "{\""u8 : ",\""u8, .. JsonEncodedText.Encode(column.Name, JavaScriptEncoder.UnsafeRelaxedJsonEscaping).EncodedUtf8Bytes, .. "\":"u8])];
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Row(TextRows rows)
    {
        for (var column = 0; column < _columns.Count; column++)
        {
            _output.Write(_names[column]);
            if (rows.IsNull(column))
                _output.Write("null"u8);
            else if (_columns[column].IsBare)
                Bare(rows.Value(column), _columns[column]);
            else
                Text(rows.Value(column));
        }

        _output.Write("}\n"u8);
    }

    public void End() => _output.Flush();

    private void Bare(ReadOnlySpan<byte> value, ResultColumn column)
    {
        if (column.SqlType is "DOUBLE" or "FLOAT" && (value.IndexOf("n"u8) >= 0))
            throw new TableException($"column '{column.Name}' has {System.Text.Encoding.ASCII.GetString(value)}, which JSON has no number for; change it in SQL, for example with nullif");
        _output.Write(value);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Text(ReadOnlySpan<byte> text)
    {
        _output.Write((byte)'"');
        if (text.IndexOfAnyInRange((byte)0, (byte)0x1F) < 0 && text.IndexOfAny((byte)'"', (byte)'\\') < 0)
        {
            _output.Write(text);
        }
        else
        {
            _escaped.ResetWrittenCount();
            using var writer = new Utf8JsonWriter(_escaped, new JsonWriterOptions { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping, SkipValidation = true });
            writer.WriteStringValue(text);
            writer.Flush();
            _output.Write(_escaped.WrittenSpan[1..^1]);
        }

        _output.Write((byte)'"');
    }
}
