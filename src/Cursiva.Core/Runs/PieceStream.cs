using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>Pieces of a body that another machine fetched, read as one stream.</summary>
internal sealed class PieceStream(IAsyncEnumerable<StoredPage> pieces) : Stream
{
    private readonly IAsyncEnumerator<StoredPage> _pieces = pieces.GetAsyncEnumerator();
    private ReadOnlyMemory<byte> _left;

    public override bool CanRead => true;

    public override bool CanSeek => false;

    public override bool CanWrite => false;

    public override long Length => throw new NotSupportedException();

    public override long Position
    {
        get => throw new NotSupportedException();
        set => throw new NotSupportedException();
    }

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        while (_left.IsEmpty)
        {
            cancellationToken.ThrowIfCancellationRequested();
            if (!await _pieces.MoveNextAsync())
                return 0;
            _left = _pieces.Current.Lines();
        }

        var count = Math.Min(buffer.Length, _left.Length);
        _left[..count].CopyTo(buffer);
        _left = _left[count..];
        return count;
    }

    public override Task<int> ReadAsync(byte[] buffer, int offset, int count, CancellationToken cancellationToken) =>
        ReadAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();

    public override int Read(byte[] buffer, int offset, int count) => ReadAsync(buffer.AsMemory(offset, count)).AsTask().GetAwaiter().GetResult();

    public override void Flush()
    {
    }

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            _ = _pieces.DisposeAsync().AsTask();
        base.Dispose(disposing);
    }
}
