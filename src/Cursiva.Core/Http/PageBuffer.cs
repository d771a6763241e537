using System.Buffers;
using System.Text;

namespace Cursiva.Core.Http;

/// <summary>A body in pooled memory, followed by <see cref="Padding"/> zero bytes so that a scan may read past its end.</summary>
public sealed class PageBuffer : IDisposable
{
    /// <summary>Bytes behind the content that exist and are zero.</summary>
    public const int Padding = 64;

    private byte[] _bytes;

    /// <summary>Rents room for so many bytes; it grows when it has to.</summary>
    public PageBuffer(int capacity) => _bytes = ArrayPool<byte>.Shared.Rent(capacity + Padding);

    /// <summary>Bytes that are filled.</summary>
    public int Length { get; private set; }

    /// <summary>The bytes that are filled.</summary>
    public Span<byte> Content => _bytes.AsSpan(0, Length);

    /// <summary>The content and the padding after it.</summary>
    public Span<byte> Padded => _bytes.AsSpan(0, Length + Padding);

    /// <summary>A buffer that holds a copy of the bytes.</summary>
    public static PageBuffer Of(ReadOnlySpan<byte> bytes)
    {
        var buffer = new PageBuffer(bytes.Length);
        bytes.CopyTo(buffer._bytes);
        buffer.Length = bytes.Length;
        buffer.Padded[bytes.Length..].Clear();
        return buffer;
    }

    /// <summary>Reads a stream to its end.</summary>
    /// <param name="largest">Most bytes that are accepted.</param>
    /// <param name="read">Is told that some of it came.</param>
    /// <exception cref="TransportException">The stream is longer than <paramref name="largest"/>.</exception>
    public async Task FillAsync(Stream stream, long largest, Action read, CancellationToken cancel)
    {
        while (true)
        {
            if (_bytes.Length - Padding == Length)
                Grow();
            var count = await stream.ReadAsync(_bytes.AsMemory(Length, _bytes.Length - Padding - Length), cancel);
            if (count == 0)
                break;
            Length += count;
            read();
            if (Length > largest)
                throw new TransportException(Refusals.Trouble.NotUnderstood, $"the answer is larger than {largest / (1024 * 1024)} MiB");
        }

        Padded[Length..].Clear();
    }

    /// <summary>The beginning of the content as text, for quoting.</summary>
    public string Text(int most) => Encoding.UTF8.GetString(Content[..Math.Min(Length, most)]);

    /// <inheritdoc/>
    public void Dispose()
    {
        if (_bytes.Length > 0)
            ArrayPool<byte>.Shared.Return(_bytes);
        _bytes = [];
        Length = 0;
    }

    private void Grow()
    {
        var larger = ArrayPool<byte>.Shared.Rent(Math.Max(64 * 1024, (_bytes.Length - Padding) * 2) + Padding);
        Content.CopyTo(larger);
        ArrayPool<byte>.Shared.Return(_bytes);
        _bytes = larger;
    }
}
