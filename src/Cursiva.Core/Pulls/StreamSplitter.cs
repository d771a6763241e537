using System.Buffers;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Cuts a stream of rows into pieces that are arrays of whole rows, so that each can be checked and landed like a page, however
/// long the stream is.
/// </summary>
/// <param name="target">Bytes that a piece should have at least.</param>
/// <param name="largest">Most bytes that one row may have.</param>
internal sealed class StreamSplitter(StreamForm form, int target, long largest)
{
    private const byte RecordSeparator = 0x1E;

    private readonly ArrayBufferWriter<byte> _bytes = new(target * 2);
    private readonly byte _separator = form == StreamForm.Sequence ? RecordSeparator : (byte)'\n';
    private long _offset;
    private int _seen;
    private int _rowEnd = -1;
    private int _depth;
    private bool _inString;
    private bool _escaped;
    private bool _isOver;
    private bool _hasValue;
    private bool _afterComma;

    /// <summary>Where the next piece begins in the stream, from 1; for messages.</summary>
    public long Offset => _offset + 1;

    /// <summary>Takes the next bytes of the stream.</summary>
    /// <exception cref="PageException">It is not a stream of rows, or a row is too large.</exception>
    public void Add(ReadOnlySpan<byte> bytes)
    {
        _bytes.Write(bytes);
        if (form == StreamForm.Array)
            Look();
        else
            LookForSeparator();
        _seen = _bytes.WrittenCount;
        if (_rowEnd < 0 && _bytes.WrittenCount > largest)
            throw new PageException($"a row is larger than {largest / (1024 * 1024)} MiB, from byte {Offset} of the stream");
    }

    /// <summary>The next piece; null while too little has come.</summary>
    public PageBuffer? Next() => _rowEnd >= target || (_rowEnd >= 0 && _isOver) ? Cut(_rowEnd) : null;

    /// <summary>The last piece, once the stream has ended; null when nothing is left.</summary>
    /// <exception cref="PageException">The stream ended in the middle.</exception>
    public PageBuffer? TakeLast()
    {
        if (form != StreamForm.Array)
            return _bytes.WrittenSpan.Trim(" \t\r\n\u001e"u8).IsEmpty ? null : Cut(_bytes.WrittenCount);
        if (!_isOver)
            throw new PageException(
                $"not JSON: the stream is cut off after {_offset + _bytes.WrittenCount} bytes, before the end of its array");
        return _rowEnd > 0 ? Cut(_rowEnd) : null;
    }

    private PageBuffer? Cut(int end)
    {
        var rows = _bytes.WrittenSpan[..end].Trim(form == StreamForm.Sequence ? " \t\r\n\u001e"u8 : " \t\r\n,"u8);
        PageBuffer? piece = null;
        if (!rows.IsEmpty)
        {
            var array = new byte[rows.Length + 2];
            array[0] = (byte)'[';
            rows.CopyTo(array.AsSpan(1));
            array[^1] = (byte)']';
            if (form != StreamForm.Array)
                Join(array.AsSpan(1, rows.Length));
            piece = PageBuffer.Of(array);
        }

        var rest = _bytes.WrittenSpan[Math.Min(end + 1, _bytes.WrittenCount)..].ToArray();
        _offset += Math.Min(end + 1, _bytes.WrittenCount);
        _bytes.ResetWrittenCount();
        _bytes.Write(rest);
        _seen = rest.Length;
        _rowEnd = -1;
        return piece;
    }

    // A separator cannot stand inside a row; between two of them it is the comma of an array. Blank lines are none.
    private void Join(Span<byte> lines)
    {
        var blank = true;
        for (var i = lines.Length - 1; i >= 0; i--)
        {
            if (lines[i] == _separator)
            {
                lines[i] = blank ? (byte)' ' : (byte)',';
                blank = true;
            }
            else if (lines[i] is not ((byte)' ' or (byte)'\t' or (byte)'\r' or (byte)'\n'))
            {
                blank = false;
            }
        }
    }

    private void LookForSeparator()
    {
        var end = _bytes.WrittenSpan[_seen..].LastIndexOf(_separator);
        if (end >= 0)
            _rowEnd = _seen + end;
    }

    private void Look()
    {
        var bytes = _bytes.WrittenSpan;
        for (var at = _seen; at < bytes.Length; at++)
        {
            var b = bytes[at];
            if (_inString)
            {
                if (_escaped)
                    _escaped = false;
                else if (b == '\\')
                    _escaped = true;
                else if (b == '"')
                    _inString = false;
                continue;
            }

            switch (b)
            {
                case (byte)'"':
                    _inString = _hasValue = true;
                    break;
                case (byte)'{' or (byte)'[':
                    _hasValue = _depth > 0;
                    if (_depth++ == 0)
                        Open(b, at);
                    break;
                case (byte)'}' or (byte)']':
                    if (--_depth == 0)
                    {
                        // A comma that nothing follows would be trimmed with the white space.
                        if (_afterComma && !_hasValue)
                            throw new PageException($"not JSON: a comma has no row after it, at byte {_offset + at + 1} of the stream");
                        (_isOver, _rowEnd) = (true, at);
                    }

                    break;
                case (byte)',' when _depth == 1:
                    if (!_hasValue)
                        throw new PageException($"not JSON: a comma has no row before it, at byte {_offset + at + 1} of the stream");
                    (_rowEnd, _hasValue, _afterComma) = (at, false, true);
                    break;
                case (byte)' ' or (byte)'\t' or (byte)'\r' or (byte)'\n':
                    break;
                default:
                    _hasValue = true;
                    if (_depth == 0 && b is not ((byte)' ' or (byte)'\t' or (byte)'\r' or (byte)'\n' or 0xEF or 0xBB or 0xBF))
                        throw new PageException($"not JSON: byte {_offset + at + 1} of the stream is outside its array");
                    break;
            }
        }
    }

    // The bracket that opens the array is no part of a row.
    private void Open(byte b, int at)
    {
        if (b != '[' || _isOver)
            throw new PageException($"the stream is not one array: byte {_offset + at + 1} begins something else");
        System.Runtime.InteropServices.MemoryMarshal.AsMemory(_bytes.WrittenMemory).Span[..(at + 1)].Fill((byte)' ');
    }
}
