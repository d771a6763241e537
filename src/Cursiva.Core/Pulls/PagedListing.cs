using System.IO.Hashing;
using System.Runtime.InteropServices;
using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Pages through a listing, from where it stands to its end. The next request leaves as soon as it is known where the listing goes
/// on; a page is checked and landed while the API prepares the one behind it. Pages that can be counted are fetched side by side.
/// </summary>
internal sealed class PagedListing(StrandRun run)
{
    // A page that is cut off or no JSON may have been damaged on the way.
    private const int PageAttempts = 3;

    // So many pages without a row, each leading on, are a listing that never ends.
    private const int MostEmptyPages = 100;

    private readonly Pager _pager = new(run.Pull.Paging);
    private readonly HashSet<ulong> _seen = [];
    private readonly ShiftWatch _shifts = new(run);
    private readonly ListingProof _proof = new(run);
    private int _emptyPages;

    /// <summary>Lands every page that is still missing.</summary>
    /// <exception cref="RefusedException">The API refused, or a page is not what the pull expects.</exception>
    public async Task RunAsync(CancellationToken cancel)
    {
        for (var attempt = 1; ; attempt++)
        {
            var landed = run.Last?.Page ?? -1;
            try
            {
                await FromWhereItStandsAsync(cancel);
                return;
            }
            catch (OddPage odd)
            {
                if ((run.Last?.Page ?? -1) > landed)
                    attempt = 1;
                if (!odd.Error.MayPass || attempt >= PageAttempts)
                    throw run.Refuse(odd.Error, odd.Request, odd.Status, odd.Content);

                // What the glance at the page had seen of its way on counts no more.
                _seen.Clear();
                await run.WaitToRepeatAsync(odd.Request, odd.Error.Message, attempt, cancel);
            }
        }
    }

    private async Task FromWhereItStandsAsync(CancellationToken cancel)
    {
        var last = run.Last;
        _proof.GoOnBehind(last);
        var position = last is null ? _pager.First : last.Next;
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var window = new Window(this, stop.Token);
        window.Send(position, goesOn: last is not null);
        var landing = Task.CompletedTask;
        try
        {
            while (window.Take() is { } fetch)
            {
                var page = new Page(fetch, await fetch.Answer, run.Work.Scanners.Take());
                try
                {
                    if (PageEnvelope.IsBehindTheLast(run.Pull.Paging, page.Answer))
                    {
                        await landing;
                        window.GoOn(null, null);
                        landing = Task.Run(() => Land(page, default(PageScan), Way.End(page.Answer.IsSuccess ? Ending.EmptyPage : Ending.NoPage)), CancellationToken.None);
                        continue;
                    }

                    page.Scanner.Begin(page.Answer.Body);
                    page.Signs = _proof.Look(page.Answer, isFirst: fetch.Position == _pager.First);
                    if (!_pager.NeedsRows && page.Scanner.Glance() is { } glance)
                    {
                        // The next page is on its way while this one is checked and written.
                        var soon = Next(page, page.Told(glance, run.Pull.Paging), null);
                        window.GoOn(soon.Next, null);
                        await landing;
                        landing = Task.Run(() => Land(page, null, soon), CancellationToken.None);
                        continue;
                    }

                    await landing;
                    landing = Task.CompletedTask;
                    var scan = page.Told(page.Scanner.Finish(), run.Pull.Paging);
                    var next = Next(page, scan, LastKey(page.Scanner));
                    window.GoOn(next.Next, run.Pull.Paging.IsCounted ? _pager.Ahead(Facts(page, scan, null), fetch.Position!) : null);
                    landing = Task.Run(() => Land(page, scan, next), CancellationToken.None);
                }
                catch (PageException error)
                {
                    await landing;
                    throw page.Odd(error);
                }
            }

            await landing;
        }
        finally
        {
            await stop.CancelAsync();
            await SettleAsync(landing);
            await window.DropAsync();
        }
    }

    private Fetch Send(string? position, bool goesOn, CancellationToken cancel)
    {
        var request = run.Requests.At(position);
        return new Fetch(position, request, run.SendAsync(request, position == _pager.First ? null : position, goesOn, cancel));
    }

    private PageFacts Facts(Page page, PageScan scan, string? lastKey) =>
        new(page.Answer, page.Fetch.Request.Uri, scan with { Total = scan.Total ?? _proof.Told }, lastKey, page.Fetch.Position == _pager.First, _proof.Rows, _proof.LargestPage);

    private Way Next(Page page, PageScan scan, string? lastKey)
    {
        var way = _pager.Next(Facts(page, scan, lastKey), page.Fetch.Position);
        if (way.Next is not { } next)
            return way;
        if (run.Pull.Paging.Style is Jobs.PagingStyle.NextLink or Jobs.PagingStyle.LinkHeader)
            next = run.Requests.Kept(new Uri(next)).AbsoluteUri;
        if (run.Requests.At(next).Uri is var address)
            run.Client.CheckWithin(address, page.Fetch.Request.Uri);
        if (!run.Pull.Paging.IsCounted)
            CheckNew(next, page);
        return Way.On(next);
    }

    private void Land(Page page, PageScan? finished, Way way)
    {
        try
        {
            // What the glance could not see is checked now: before this, the page does not count.
            var scan = finished ?? page.Told(page.Scanner.Finish(), run.Pull.Paging);
            var lines = PageEnvelope.IsBehindTheLast(run.Pull.Paging, page.Answer) ? default : page.Scanner.Lines;
            _emptyPages = scan.Rows == 0 ? _emptyPages + 1 : 0;
            if (way.Next is not null && _emptyPages > MostEmptyPages)
                throw Endless(page, $"{MostEmptyPages} pages in a row had no rows, and each led to another");
            _proof.CheckNew(lines, scan.Rows, page.Fetch.Request);
            var ended = _proof.Check(page.Signs, page.Answer, scan, way);
            _shifts.Look(lines, scan);
            run.Land(lines, scan.Rows, way.Next, scan.Total, delta: way.Next is null ? Delta(scan.Delta) : null, ended: ended);
            _proof.Landed(scan.Rows);
        }
        catch (PageException error)
        {
            throw page.Odd(error);
        }
        finally
        {
            page.Release(run.Work.Scanners);
        }
    }

    private string? Delta(string? delta) =>
        delta is not null && run.Pull.Paging.DeltaParameter is null && Uri.TryCreate(delta, UriKind.Absolute, out var link) ? run.Requests.Kept(link).AbsoluteUri : delta;

    private string? LastKey(PageScanner scanner)
    {
        if (run.Pull.Paging is not { Style: Jobs.PagingStyle.Keyset, At: { } at } || scanner.Lines is not { Length: > 1 } lines)
            return null;
        var start = lines[..^1].LastIndexOf((byte)'\n') + 1;
        var key = JsonFind.Raw(lines[start..^1], at);
        return !key.IsEmpty && key[0] is not ((byte)'n' or (byte)'{' or (byte)'[') ? Encoding.UTF8.GetString(key)
            : throw new PageException($"the last row has no value at keyset: {at.Text}");
    }

    // Eight bytes a page are kept, so that a circle of any length ends.
    private void CheckNew(string next, Page page)
    {
        _seen.Add(Digest(page.Fetch.Position ?? run.Requests.First.AbsoluteUri));
        if (_seen.Contains(Digest(next)))
            throw Endless(page, $"page {(run.Last?.Page ?? -1) + 2} leads back to a page that was read already");
    }

    private RefusedException Endless(Page page, string why) => new(new Refusal(Outcome.ApiFailed, $"pull '{run.Pull.Name}'{run.Title} would never end: {why}")
    {
        Cause = "the API repeats a link or cursor, or paging: names the wrong one",
        NextStep = "compare paging: with what a page has",
        Request = $"{page.Fetch.Request.Method} {ShownAddress.Of(page.Fetch.Request.Uri)}",
    });

    private StrandRun Run => run;

    private static ulong Digest(string text) => XxHash64.HashToUInt64(MemoryMarshal.AsBytes(text.AsSpan()));

    private static async Task DropAsync(Task<Answer> request)
    {
        try
        {
            (await request).Dispose();
        }
        catch (Exception error) when (error is RefusedException or OperationCanceledException or ObjectDisposedException or StrandSkip or StrandRestart)
        {
            // It was asked for ahead, and is not needed any more.
        }
    }

    private static async Task SettleAsync(Task landing)
    {
        try
        {
            await landing;
        }
        catch (Exception error) when (error is not OutOfMemoryException)
        {
            // Whoever awaited it first has told.
        }
    }

    /// <summary>The pages that were asked for and are not landed: one ahead, or several where they can be counted.</summary>
    private sealed class Window(PagedListing listing, CancellationToken cancel)
    {
        private readonly Queue<Fetch> _sent = new();
        private readonly int _most = listing.Run.Work.Progress.Repeats ? 1 : listing.Run.Pull.Parallel;
        private IEnumerator<string>? _ahead;

        public Fetch? Take() => _sent.TryDequeue(out var fetch) ? fetch : null;

        public void Send(string? position, bool goesOn) => _sent.Enqueue(listing.Send(position, goesOn, cancel));

        /// <summary>Goes on behind a page.</summary>
        /// <param name="next">Where the listing goes on; null when it has ended.</param>
        /// <param name="ahead">The places up to its end, where they can be counted.</param>
        public void GoOn(string? next, IEnumerable<string>? ahead)
        {
            if (next is null || (_sent.TryPeek(out var sent) && Place(sent.Position!) != Place(next)))
            {
                // The listing ended sooner, or its pages are of another size, than was counted on.
                while (_sent.TryDequeue(out var dropped))
                    _ = PagedListing.DropAsync(dropped.Answer);
                _ahead = null;
            }

            if (next is null)
                return;
            _ahead ??= ahead?.GetEnumerator();
            while (_ahead is not null && _sent.Count < _most && _ahead.MoveNext())
                Send(_ahead.Current, goesOn: false);
            if (_sent.Count == 0)
                Send(next, goesOn: false);
        }

        public async Task DropAsync()
        {
            foreach (var fetch in _sent)
                await PagedListing.DropAsync(fetch.Answer);
        }

        private static string Place(string position) => position.Split(' ')[0];
    }

    private sealed record Fetch(string? Position, ApiRequest Request, Task<Answer> Answer);

    private sealed class Page(Fetch fetch, Answer answer, PageScanner scanner)
    {
        public Fetch Fetch => fetch;

        public Answer Answer => answer;

        public PageScanner Scanner => scanner;

        public PageSigns Signs { get; set; } = PageSigns.None;

        public PageScan Told(PageScan scan, Jobs.Paging paging) => PageEnvelope.Counted(scan, paging, answer);

        public OddPage Odd(PageException error)
        {
            scanner.Restore();
            return new OddPage(error, fetch.Request, answer.Status, answer.Body.Content.ToArray());
        }

        public void Release(ScannerPool scanners)
        {
            answer.Dispose();
            scanners.Return(scanner);
        }
    }

    private sealed class OddPage(PageException error, ApiRequest request, int status, byte[] content) : Exception(error.Message, error)
    {
        public PageException Error => error;

        public ApiRequest Request => request;

        public int Status => status;

        public byte[] Content => content;
    }
}
