using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>A stream that may not be longer than a bound, and whose readers can be stopped whatever they read with.</summary>
internal sealed class BoundedStream(Stream inner, long largest, CancellationToken cancel) : ForwardStream
{
    private long _read;

    /// <exception cref="RefusedException">The stream is longer than allowed.</exception>
    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancellationToken, cancel);
        var count = await inner.ReadAsync(buffer, either.Token);
        _read += count;
        return _read <= largest ? count : throw TooLarge(largest);
    }

    /// <summary>What is told of a file without end.</summary>
    public static RefusedException TooLarge(long largest) =>
        new(new Refusal(Outcome.ApiFailed, $"a file of the API is larger than {largest / (1024 * 1024):N0} MiB (largest-file:)")
        {
            Cause = "the file is larger than expected, or the answer never ends",
            NextStep = "if files can be that large, raise largest-file: of the API",
        });

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            inner.Dispose();
        base.Dispose(disposing);
    }
}
