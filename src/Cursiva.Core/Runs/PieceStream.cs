using Cursiva.Core.Http;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>Pieces of a body that another machine fetched, read as one stream.</summary>
internal sealed class PieceStream(IAsyncEnumerable<StoredPage> pieces) : ForwardStream
{
    private readonly IAsyncEnumerator<StoredPage> _pieces = pieces.GetAsyncEnumerator();
    private ReadOnlyMemory<byte> _left;

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

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            _ = _pieces.DisposeAsync().AsTask();
        base.Dispose(disposing);
    }
}
