using System.IO.Compression;

namespace Cursiva.Core.Http;

/// <summary>Unpacks what is packed by gzip (RFC 1952), whatever its name or type says.</summary>
public static class Gunzip
{
    /// <summary>The content of a stream, unpacked where it begins like gzip.</summary>
    public static async Task<Stream> IfPackedAsync(Stream stream, CancellationToken cancel)
    {
        var head = new byte[2];
        var read = await stream.ReadAtLeastAsync(head, 2, throwOnEndOfStream: false, cancel);
        var whole = new HeadedStream(head.AsMemory(0, read), stream);
        return read == 2 && head[0] == 0x1F && head[1] == 0x8B ? new GZipStream(whole, CompressionMode.Decompress) : whole;
    }

    // The bytes that were looked at, and those behind them.
    private sealed class HeadedStream(ReadOnlyMemory<byte> head, Stream rest) : ForwardStream
    {
        private ReadOnlyMemory<byte> _head = head;

        public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
        {
            if (_head.IsEmpty)
                return await rest.ReadAsync(buffer, cancellationToken);
            var count = Math.Min(_head.Length, buffer.Length);
            _head[..count].CopyTo(buffer);
            _head = _head[count..];
            return count;
        }
    }
}
