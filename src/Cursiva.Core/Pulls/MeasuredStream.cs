using System.Security.Cryptography;
using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>A stream whose bytes are counted and digested (SHA-256) while they are read.</summary>
internal sealed class MeasuredStream(Stream inner) : ForwardStream
{
    private readonly IncrementalHash _digest = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);

    /// <summary>Bytes that were read.</summary>
    public long Bytes { get; private set; }

    /// <summary>The SHA-256 of the bytes that were read.</summary>
    public byte[] Digest => _digest.GetCurrentHash();

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        var count = await inner.ReadAsync(buffer, cancellationToken);
        _digest.AppendData(buffer.Span[..count]);
        Bytes += count;
        return count;
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
        {
            _digest.Dispose();
            inner.Dispose();
        }

        base.Dispose(disposing);
    }
}
