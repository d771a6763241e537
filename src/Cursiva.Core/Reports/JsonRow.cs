using System.Buffers;
using System.Runtime.CompilerServices;
using System.Text.Encodings.Web;
using System.Text.Json;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Rows as JSON objects, their keys in the order of the columns. Numbers have the digits they had.</summary>
internal sealed class JsonRow(BufferedOutput output, IReadOnlyList<ResultColumn> columns)
{
    private static readonly SearchValues<byte> s_escaped = SearchValues.Create(
        [.. Enumerable.Range(0, 32).Select(c => (byte)c), (byte)'"', (byte)'\\']);

    private readonly byte[][] _names = [.. columns.Select((column, place) => (byte[])[
        .. place == 0
            ? "{\""u8
            : ",\""u8, .. JsonEncodedText.Encode(column.Name, JavaScriptEncoder.UnsafeRelaxedJsonEscaping).EncodedUtf8Bytes, .. "\":"u8])];

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
            throw new TableException(
                $"column '{column.Name}' has {System.Text.Encoding.ASCII.GetString(value)}, which JSON cannot represent; change it in SQL, for example with nullif");
        output.Write(value);
    }

    // Only what JSON cannot hold as it is is escaped (RFC 8259, section 7).
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Text(ReadOnlySpan<byte> text)
    {
        output.Write((byte)'"');
        for (var at = text.IndexOfAny(s_escaped); at >= 0; at = text.IndexOfAny(s_escaped))
        {
            output.Write(text[..at]);
            Escape(text[at]);
            text = text[(at + 1)..];
        }

        output.Write(text);
        output.Write((byte)'"');
    }

    private void Escape(byte value)
    {
        switch (value)
        {
            case (byte)'"':
                output.Write("\\\""u8);
                break;
            case (byte)'\\':
                output.Write("\\\\"u8);
                break;
            case (byte)'\n':
                output.Write("\\n"u8);
                break;
            case (byte)'\r':
                output.Write("\\r"u8);
                break;
            case (byte)'\t':
                output.Write("\\t"u8);
                break;
            default:
                output.Write(System.Text.Encoding.ASCII.GetBytes($"\\u{value:x4}"));
                break;
        }
    }
}
