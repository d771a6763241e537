using Cursiva.Core.Http;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>The pages that were asked for and are not landed: one ahead, or several where they can be counted.</summary>
/// <param name="most">Most of them.</param>
/// <param name="send">Asks for the page at a position; the second argument says whether the strand is resumed with it.</param>
/// <param name="sendAhead">Asks for one of the pages that were counted.</param>
internal sealed class PagesAhead(Pager pager, int most, Func<string?, bool, PageFetch> send, Func<string, PageFetch> sendAhead)
{
    private readonly Queue<PageFetch> _sent = new();
    private IEnumerator<string>? _ahead;

    /// <summary>The next page in order; null when none was asked for.</summary>
    public PageFetch? Next() => _sent.TryDequeue(out var fetch) ? fetch : null;

    public void Send(string? position, bool goesOn) => _sent.Enqueue(send(position, goesOn));

    /// <summary>Goes on behind a page.</summary>
    /// <param name="next">Where the listing goes on; null when it has ended.</param>
    /// <param name="ahead">The places up to its end, where they can be counted.</param>
    public void GoOn(string? next, IEnumerable<string>? ahead)
    {
        if (next is null || (_sent.TryPeek(out var sent) && !pager.IsSame(sent.Position!, next)))
        {
            // The listing ended sooner, or its pages are of another size, than was counted on.
            while (_sent.TryDequeue(out var dropped))
                _ = DropAsync(dropped.Answer);
            _ahead = null;
        }

        if (next is null)
            return;
        _ahead ??= ahead?.GetEnumerator();
        while (_ahead is not null && _sent.Count < most && _ahead.MoveNext())
            _sent.Enqueue(sendAhead(_ahead.Current));
        if (_sent.Count == 0)
            Send(next, goesOn: false);
    }

    /// <summary>Drops whatever is still under way.</summary>
    public async Task DropAsync()
    {
        foreach (var fetch in _sent)
            await DropAsync(fetch.Answer);
    }

    private static async Task DropAsync(Task<Answer?> request)
    {
        try
        {
            (await request)?.Dispose();
        }
        catch (Exception error) when (error is RefusedException or OperationCanceledException or ObjectDisposedException or StrandRestart)
        {
            // It was asked for ahead, and is not needed any more.
        }
    }
}
