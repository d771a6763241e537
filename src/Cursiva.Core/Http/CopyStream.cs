namespace Cursiva.Core.Http;

/// <summary>A body that is read as a stream, and kept besides for a trace.</summary>
/// <param name="most">Most bytes that are kept.</param>
internal sealed class CopyStream(Stream inner, long most) : ForwardStream
{
    private MemoryStream? _kept = new();

    /// <summary>What was read; null where that was more than is kept.</summary>
    public byte[]? Copied => _kept?.ToArray();

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        var count = await inner.ReadAsync(buffer, cancellationToken);
        if (_kept is not null && _kept.Length + count > most)
            _kept = null;
        _kept?.Write(buffer.Span[..count]);
        return count;
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            inner.Dispose();
        base.Dispose(disposing);
    }
}
