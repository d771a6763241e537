using Cursiva.Core.State;

namespace Cursiva.Core.Http;

/// <summary>
/// The pause that an API has asked a client for, kept in the state: a restart does not forget it, and other processes learn of it. Looked
/// up
/// at most four times a second.
/// </summary>
/// <param name="client">Names API and client.</param>
internal sealed class PauseNote(ISlots slots, string client, TimeProvider clock)
{
    private static readonly TimeSpan s_lookAgain = TimeSpan.FromMilliseconds(250);

    // A shorter one is over before anybody could read of it.
    private static readonly TimeSpan s_shortest = TimeSpan.FromMilliseconds(500);

    private long _looked;

    /// <summary>Keeps a pause, durably, unless a longer one is kept.</summary>
    public Task WriteAsync(TimeSpan span, CancellationToken cancel) =>
        span < s_shortest ? Task.CompletedTask : slots.PauseAsync(client, span, cancel);

    /// <summary>How much is left of the pause that is kept; null when it was looked up a moment ago, or there is none.</summary>
    public async Task<TimeSpan?> ReadAsync(CancellationToken cancel)
    {
        if (_looked != 0 && clock.GetElapsedTime(_looked) < s_lookAgain)
            return null;
        _looked = clock.GetTimestamp();
        return await slots.PauseLeftAsync(client, cancel);
    }
}
