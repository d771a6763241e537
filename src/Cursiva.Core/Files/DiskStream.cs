namespace Cursiva.Core.Files;

/// <summary>A file written from its start to its end.</summary>
public sealed class DiskStream(IDiskFile file) : Stream
{
    private long _offset;

    /// <inheritdoc/>
    public override bool CanRead => false;

    /// <inheritdoc/>
    public override bool CanSeek => false;

    /// <inheritdoc/>
    public override bool CanWrite => true;

    /// <inheritdoc/>
    public override long Length => _offset;

    /// <inheritdoc/>
    public override long Position { get => _offset; set => throw new NotSupportedException(); }

    /// <inheritdoc/>
    public override void Write(ReadOnlySpan<byte> buffer)
    {
        file.Write(buffer, _offset);
        _offset += buffer.Length;
    }

    /// <inheritdoc/>
    public override void Write(byte[] buffer, int offset, int count) => Write(buffer.AsSpan(offset, count));

    /// <summary>Makes durable what was written so far.</summary>
    public override void Flush() => file.Flush();

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        if (disposing)
            file.Dispose();
        base.Dispose(disposing);
    }
}
