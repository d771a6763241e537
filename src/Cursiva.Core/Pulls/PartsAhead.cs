using Cursiva.Core.Http;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// The parts of an export that other machines fetch while those before them are landed; none where this machine works alone.
/// </summary>
internal sealed class PartsAhead(StrandRun run, IReadOnlyList<Uri> parts, CancellationToken cancel) : IAsyncDisposable
{
    // What is fetched and not landed yet lies in the database.
    private const int Most = 8;

    private readonly Queue<Task<Answer?>?> _sent = new();
    private int _offered;

    /// <summary>The answer of the next part; null where it has to be asked for here.</summary>
    public Task<Answer?>? Next()
    {
        while (_offered < parts.Count && _sent.Count < Most)
        {
            _sent.Enqueue(parts.Count > 1 ? run.Services.Hands?.FetchAhead(run, parts[_offered].AbsoluteUri, cancel) : null);
            _offered++;
        }

        return _sent.Dequeue();
    }

    /// <summary>Drops what is still under way.</summary>
    public async ValueTask DisposeAsync()
    {
        foreach (var answer in _sent.OfType<Task<Answer?>>())
        {
            try
            {
                (await answer)?.Dispose();
            }
            catch (Exception error) when (error is RefusedException or OperationCanceledException or StrandRestart or TransportException)
            {
                // It is not needed any more.
            }
        }
    }
}
