using System.Runtime.CompilerServices;
using System.Text.Encodings.Web;
using System.Text.Json;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Rows as JSON objects, their keys in the order of the columns. Numbers have the digits they had.</summary>
internal sealed class JsonRow(BufferedOutput output, IReadOnlyList<ResultColumn> columns)
{
    private readonly System.Buffers.ArrayBufferWriter<byte> _escaped = new(256);

    private readonly byte[][] _names = [.. columns.Select((column, place) => (byte[])[
        .. place == 0 ? "{\""u8 : ",\""u8, .. JsonEncodedText.Encode(column.Name, JavaScriptEncoder.UnsafeRelaxedJsonEscaping).EncodedUtf8Bytes, .. "\":"u8])];

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Write(TextRows rows)
    {
        for (var column = 0; column < columns.Count; column++)
        {
            output.Write(_names[column]);
            if (rows.IsNull(column))
                output.Write("null"u8);
            else if (columns[column].IsBare)
                Bare(rows.Value(column), columns[column]);
            else
                Text(rows.Value(column));
        }

        output.Write((byte)'}');
    }

    private void Bare(ReadOnlySpan<byte> value, ResultColumn column)
    {
        if (column.Form == ValueForm.Float && value.IndexOf("n"u8) >= 0)
            throw new TableException($"column '{column.Name}' has {System.Text.Encoding.ASCII.GetString(value)}, which JSON has no number for; change it in SQL, for example with nullif");
        output.Write(value);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Text(ReadOnlySpan<byte> text)
    {
        output.Write((byte)'"');
        if (text.IndexOfAnyInRange((byte)0, (byte)0x1F) < 0 && text.IndexOfAny((byte)'"', (byte)'\\') < 0)
        {
            output.Write(text);
        }
        else
        {
            _escaped.ResetWrittenCount();
            using var writer = new Utf8JsonWriter(_escaped, new JsonWriterOptions { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping, SkipValidation = true });
            writer.WriteStringValue(text);
            writer.Flush();
            output.Write(_escaped.WrittenSpan[1..^1]);
        }

        output.Write((byte)'"');
    }
}
