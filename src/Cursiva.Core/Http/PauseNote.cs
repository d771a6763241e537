using System.Globalization;
using System.Text;
using Cursiva.Core.State;

namespace Cursiva.Core.Http;

/// <summary>
/// The pause that an API has asked a client for, kept in the state: a restart does not forget it, and other processes learn of it. Looked up
/// at most four times a second.
/// </summary>
/// <param name="client">Names API and client.</param>
internal sealed class PauseNote(IState state, string client, TimeProvider clock)
{
    private const string Kind = "pause";

    private static readonly TimeSpan s_lookAgain = TimeSpan.FromMilliseconds(250);

    // A shorter one is over before anybody could read of it.
    private static readonly TimeSpan s_shortest = TimeSpan.FromMilliseconds(500);

    private long _looked;

    /// <summary>Keeps a pause, durably, unless a longer one is kept.</summary>
    public async Task WriteAsync(DateTimeOffset until, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        if (until - now < s_shortest || await KeptAsync(cancel) >= until)
            return;
        await state.WriteAsync(
            Kind, client, Encoding.ASCII.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{until.UtcTicks} {now.UtcTicks}")), cancel);
    }

    /// <summary>When the pause ends that was kept; null when it was looked up a moment ago, or there is none.</summary>
    public async Task<DateTimeOffset?> ReadAsync(CancellationToken cancel)
    {
        if (_looked != 0 && clock.GetElapsedTime(_looked) < s_lookAgain)
            return null;
        _looked = clock.GetTimestamp();
        return await KeptAsync(cancel);
    }

    // Of a clock that was set back since, the pause lasts no longer than it was meant to.
    private async Task<DateTimeOffset?> KeptAsync(CancellationToken cancel)
    {
        if (await state.ReadAsync(Kind, client, cancel) is not { } document || Encoding.ASCII.GetString(document).Split(' ') is not [var until, var asked])
            return null;
        var (end, began, now) = (
            long.Parse(until, CultureInfo.InvariantCulture), long.Parse(asked, CultureInfo.InvariantCulture), clock.GetUtcNow().UtcTicks);
        return new DateTimeOffset(now < began ? now + end - began : end, TimeSpan.Zero);
    }
}
