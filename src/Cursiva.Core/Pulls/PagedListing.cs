using System.IO.Hashing;
using System.Runtime.InteropServices;
using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Pages through a listing, from where it stands to its end. The next request leaves as soon as it is known where the listing goes
/// on; a page is checked and landed while the API prepares the one after it. Pages that can be counted are fetched side by side.
/// </summary>
internal sealed class PagedListing(StrandRun run, Pager pager)
{
    // A page that is cut off or no JSON may have been damaged on the way.

    // Pages that any machine fetches: enough for several of them.
    private const int MostOut = 32;

    // So many pages without a row, each leading on, are a listing that never ends.
    private const int MostEmptyPages = 100;

    private readonly HashSet<ulong> _seen = [];
    private readonly ShiftWatch _shifts = new(run);
    private ListingProof _proof = new(run);
    private Unchanged? _unchanged;
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
            catch (WindowTooLarge)
            {
                run.Halve();
                return;
            }
            catch (OddPage odd)
            {
                if ((run.Last?.Page ?? -1) > landed)
                    attempt = 1;
                if (!odd.Error.MayPass || attempt >= Retries.OddPage)
                    throw run.Refuse(odd.Error, odd.Request, odd.Status, odd.Content);

                // What the glance at the page had seen of its way on counts no more.
                _seen.Clear();
                await run.WaitToRepeatAsync(odd.Request, odd.Error.Message, attempt, cancel);
            }
        }
    }

    private async Task FromWhereItStandsAsync(CancellationToken cancel)
    {
        // The pages of a window count once it is whole: it starts over.
        if (run.Pull.Window is not null)
            _proof = new ListingProof(run);
        var last = run.Last;
        _proof.GoOnBehind(last);
        var position = last is null ? pager.First : last.Next;
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var window = new PagesAhead(
            pager,
            run.Context.Progress.Repeats ? 1 : run.Services.Hands is null ? run.Pull.Parallel : MostOut,
            (position, goesOn) => Send(position, goesOn, stop.Token),
            position => SendAhead(position, stop.Token));
        window.Send(position, goesOn: last is not null);
        var landing = Task.CompletedTask;
        try
        {
            while (window.Next() is { } fetch)
            {
                if (await fetch.Answer is not { } answer)
                {
                    await landing;
                    return;
                }

                var page = new FetchedPage(fetch, answer, run.Context.Scanners.Rent());
                try
                {
                    if (_unchanged is { } before && Unchanged.Says(page.Answer))
                    {
                        run.Land(
                            before.Lines,
                            before.Rows,
                            null,
                            before.Told,
                            ended: before.Ended,
                            etag: Unchanged.Kept(fetch.Request, page.Answer) ?? before.Kept(fetch.Request),
                            areProven: true);
                        page.Release(run.Context.Scanners);
                        continue;
                    }

                    if (PageEnvelope.IsBehindTheLast(run.Pull.Paging, page.Answer))
                    {
                        await landing;
                        window.GoOn(null, null);
                        landing = Task.Run(
                            () => Land(page, default(PageScan), Way.End(page.Answer.IsSuccess ? Ending.EmptyPage : Ending.NoPage)),
                            CancellationToken.None);
                        continue;
                    }

                    page.Scanner.Begin(page.Answer.Body);
                    page.Signs = _proof.Look(page.Answer, isFirst: fetch.Position == pager.First);
                    if (!pager.NeedsRows && page.Scanner.Glance() is { } glance)
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
                    _proof.CheckError(page.Answer, scan);
                    var next = Next(page, scan, pager.LastKey(page.Scanner.Lines));
                    window.GoOn(next.Next, fetch.Position is { } at ? pager.Ahead(Facts(page, scan, null), at) : null);
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
        catch (RefusedException) when (run.Pull.Window is not null)
        {
            // What is refused may be the page behind the most that the API gives; the page before it tells that first.
            await landing;
            throw;
        }
        finally
        {
            await stop.CancelAsync();
            await SettleAsync(landing);
            await window.DropAsync();
        }
    }

    private PageFetch Send(string? position, bool goesOn, CancellationToken cancel)
    {
        var request = run.Requests.At(position);
        if (position == pager.First && !goesOn && (_unchanged = Unchanged.Of(run, request)) is { } known)
            request = known.Ask(request);
        return new PageFetch(position, request, run.TrySendAsync(request, position == pager.First ? null : position, goesOn, cancel));
    }

    private PageFetch SendAhead(string position, CancellationToken cancel) =>
        run.Services.Hands?.FetchAhead(run, position, cancel) is { } answer
            ? new PageFetch(position, run.Requests.At(position), answer)
            : Send(position, goesOn: false, cancel);

    private PageFacts Facts(FetchedPage page, PageScan scan, string? lastKey) =>
        new(
            page.Answer,
            page.Fetch.Request.Uri,
            scan with { Total = scan.Total ?? _proof.Told },
            lastKey,
            page.Fetch.Position == pager.First,
            _proof.Rows,
            _proof.LargestPage);

    private Way Next(FetchedPage page, PageScan scan, string? lastKey)
    {
        var way = pager.Next(Facts(page, scan, lastKey), page.Fetch.Position);
        if (way.Next is not { } next)
            return way;
        next = pager.Kept(next, run.Requests.Kept);
        if (run.Requests.At(next).Uri is var address)
            run.Client.CheckWithin(address, page.Fetch.Request.Uri);
        if (!run.Pull.Paging.Style.IsCounted)
            CheckNew(next, page);
        return Way.On(next);
    }

    private void Land(FetchedPage page, PageScan? finished, Way way)
    {
        try
        {
            // What the glance could not see is checked now: before this, the page does not count.
            var scan = finished ?? page.Told(page.Scanner.Finish(), run.Pull.Paging);
            var lines = PageEnvelope.IsBehindTheLast(run.Pull.Paging, page.Answer) ? default : page.Scanner.Lines;
            _emptyPages = scan.Rows == 0 ? _emptyPages + 1 : 0;
            if (way.Next is not null && _emptyPages > MostEmptyPages)
                throw Endless(page, $"{MostEmptyPages} pages in a row had no rows, but each led to another");
            _proof.CheckNew(lines, scan.Rows, page.Fetch.Request);
            var ended = _proof.Check(page.Signs, page.Answer, scan, way);
            if (way.Next is not null && pager is KeysetStyle { IsSingle: true } keyset && keyset.EndsInTie(lines))
                run.Context.Warn(
                    $"pull '{run.Pull.Name}' may miss rows: the last rows of a page share the value at keyset: {run.Pull.Paging.At}, and more rows with that value may follow; add a second field that distinguishes them: keyset: [{run.Pull.Paging.At}, /id], with a parameter for each");
            _shifts.Look(lines, scan);
            run.CheckWindow(_proof.Rows + scan.Rows, scan.Total ?? _proof.Told);
            run.Land(
                lines,
                scan.Rows,
                way.Next,
                scan.Total,
                isPiece: run.Pull.Window is not null && way.Next is not null,
                delta: way.Next is null ? Delta(scan.Delta) : null,
                ended: ended,
                etag: way.Next is null && page.Fetch.Position == pager.First ? Unchanged.Kept(page.Fetch.Request, page.Answer) : null,
                verifiedBy: page.Answer.VerifiedBy);
            _proof.Landed(scan.Rows);
        }
        catch (PageException error)
        {
            throw page.Odd(error);
        }
        finally
        {
            page.Release(run.Context.Scanners);
        }
    }

    private string? Delta(string? delta) =>
        delta is not null && run.Pull.Paging.DeltaParameter is null && Uri.TryCreate(delta, UriKind.Absolute, out var link)
            ? run.Requests.Kept(link).AbsoluteUri
            : delta;

    // Eight bytes a page are kept, so that a circle of any length ends.
    private void CheckNew(string next, FetchedPage page)
    {
        _seen.Add(Digest(page.Fetch.Position ?? run.Requests.First.AbsoluteUri));
        if (_seen.Contains(Digest(next)))
            throw Endless(page, $"page {_proof.Pages + 2} leads back to a page that was already read");
    }

    private RefusedException Endless(FetchedPage page, string why) =>
        new(new Refusal(Outcome.ApiFailed, $"pull '{run.Pull.Name}'{run.Title} would never end: {why}")
        {
            Cause = "the API repeats a link or cursor, or paging: uses the wrong one",
            NextStep =
            $"compare paging: with a page: cursiva call JOB {ShellWord.Of(run.Pull.Api)} {ShellWord.Of(ShownAddress.Of(page.Fetch.Request.Uri))}",
            Request = $"{page.Fetch.Request.Method} {ShownAddress.Of(page.Fetch.Request.Uri)}",
        });

    private static ulong Digest(string text) => XxHash64.HashToUInt64(MemoryMarshal.AsBytes(text.AsSpan()));

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
}
