using System.Buffers;
using System.Runtime.CompilerServices;
using System.Text;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// Comma-separated values (RFC 4180): a header line, CR LF at every line's end, quotes where they are needed. A null is nothing
/// between the commas and an empty text is <c>""</c>, so that the two stay apart.
/// </summary>
internal sealed class CsvWriter(Stream stream) : IRowWriter
{
    private static readonly SearchValues<byte> s_special = SearchValues.Create(",\"\r\n"u8);
    private readonly BufferedOutput _output = new(stream);

    public void Begin(IReadOnlyList<ResultColumn> columns)
    {
        for (var column = 0; column < columns.Count; column++)
        {
            if (column > 0)
                _output.Write((byte)',');
            Text(Encoding.UTF8.GetBytes(columns[column].Name));
        }

        _output.Write("\r\n"u8);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Row(TextRows rows)
    {
        for (var column = 0; column < rows.Columns; column++)
        {
            if (column > 0)
                _output.Write((byte)',');
            if (!rows.IsNull(column))
                Text(rows.Value(column));
        }

        _output.Write("\r\n"u8);
    }

    public void End() => _output.Flush();

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Text(ReadOnlySpan<byte> text)
    {
        if (text.Length > 0 && text.IndexOfAny(s_special) < 0)
        {
            _output.Write(text);
            return;
        }

        _output.Write((byte)'"');
        for (var quote = text.IndexOf((byte)'"'); quote >= 0; quote = text.IndexOf((byte)'"'))
        {
            _output.Write(text[..(quote + 1)]);
            _output.Write((byte)'"');
            text = text[(quote + 1)..];
        }

        _output.Write(text);
        _output.Write((byte)'"');
    }
}
