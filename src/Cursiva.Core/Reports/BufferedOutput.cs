using System.Runtime.CompilerServices;

namespace Cursiva.Core.Reports;

/// <summary>Gathers bytes and passes them on in large pieces.</summary>
internal sealed class BufferedOutput(Stream stream)
{
    private readonly byte[] _buffer = new byte[128 * 1024];
    private int _used;

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public void Write(byte value)
    {
        if (_used == _buffer.Length)
            Flush();
        _buffer[_used++] = value;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public void Write(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length > _buffer.Length - _used)
        {
            Flush();
            if (bytes.Length > _buffer.Length)
            {
                stream.Write(bytes);
                return;
            }
        }

        bytes.CopyTo(_buffer.AsSpan(_used));
        _used += bytes.Length;
    }

    public void Flush()
    {
        stream.Write(_buffer.AsSpan(0, _used));
        _used = 0;
    }
}
