using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>The body of an answer as it arrives. Silence and a broken connection become a <see cref="TransportException"/>.</summary>
/// <param name="owner">Is disposed with the stream.</param>
internal sealed class AnswerStream(Stream inner, TimeSpan idle, TimeProvider clock, IDisposable owner) : ForwardStream
{
    /// <exception cref="TransportException">Nothing came for too long, or the connection broke.</exception>
    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        using var silence = new CancellationTokenSource(Waits.Timer(idle), clock);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancellationToken, silence.Token);
        try
        {
            return await inner.ReadAsync(buffer, either.Token);
        }
        catch (OperationCanceledException) when (!cancellationToken.IsCancellationRequested)
        {
            throw new TransportException(Trouble.Silent, $"the answer stalled for {idle.TotalSeconds:0.###} s");
        }
        catch (Exception error) when (error is IOException or HttpRequestException)
        {
            throw new TransportException(Trouble.CutOff, "the connection broke before the answer was complete", error);
        }
        catch (InvalidDataException error)
        {
            throw new TransportException(Trouble.CutOff, "the compressed answer is damaged", error);
        }
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
        {
            inner.Dispose();
            owner.Dispose();
        }

        base.Dispose(disposing);
    }
}
