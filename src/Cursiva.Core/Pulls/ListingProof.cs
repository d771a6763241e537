using System.IO.Hashing;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Watches one strand for what shows that its listing is complete, that it cannot be, or that it never ends (promise 11).
/// </summary>
internal sealed class ListingProof(StrandRun run)
{
    private readonly HashSet<long> _digests = [];
    private readonly DeclaredPlaces _places = run.Context.Places;
    private long _digest;
    private int _largest;

    /// <summary>Rows of the strand that are landed.</summary>
    public long Rows { get; private set; }

    /// <summary>Pages of the strand that are landed.</summary>
    public long Pages { get; private set; }

    /// <summary>The rows in all, as the API told last; null when it has not.</summary>
    public long? Told { get; private set; }

    /// <summary>
    /// Rows of a full page, as far as they are known: the largest that came, or what was asked for once the server gave it.
    /// </summary>
    public int LargestPage => _places.GivesFullPages ? Math.Max(_largest, run.Pull.Paging.PageSize ?? 0) : _largest;

    /// <summary>Begins, or continues after what is landed.</summary>
    public void GoOnBehind(LandedPage? last)
    {
        if (last is null || Pages > 0)
            return;
        var (rows, checksums) = run.Context.Landing.RowsOf(run.Strand.Key);
        (Rows, Pages, _largest) = (rows, last.Page + 1, Math.Max(_largest, last.Rows));
        _digests.UnionWith(checksums);
    }

    /// <summary>Looks at what a page has beside its rows, while it is as it came.</summary>
    public PageSigns Look(Answer answer, bool isFirst) =>
        isFirst && _places.WantsSigns() ? _places.Look(PageSigns.Of(answer, run.Pull.Rows.At)) : PageSigns.None;

    /// <summary>Refuses a page that the strand has had already, and a listing without end.</summary>
    /// <exception cref="RefusedException">It would never end.</exception>
    public void CheckNew(ReadOnlySpan<byte> lines, int rows, ApiRequest request)
    {
        var paging = run.Pull.Paging;
        _digest = (long)XxHash3.HashToUInt64(lines);
        if (rows > 0 && _digests.Contains(_digest))
            throw Endless(
                request,
                $"page {Pages + 1} has the rows of an earlier page again",
                $"the API ignores {(ListingStyle.Of(paging) as Pager)?.WayOn}, or returns the same page for every new {(paging.Style.IsCounted ? "numbers" : "links")}");
        if (Pages >= paging.MostPages)
            throw Endless(
                request,
                $"it has more than {paging.MostPages:N0} pages",
                "the listing is larger than expected, or never ends",
                $"if it is that large, raise most-pages: in paging: of pull '{run.Pull.Name}'");
        if (Rows + rows > paging.MostRows)
            throw Endless(
                request,
                $"it has more than {paging.MostRows:N0} rows",
                "the listing is larger than expected, or never ends",
                $"if it is that large, raise most-rows: in paging: of pull '{run.Pull.Name}'");
    }

    /// <summary>Why the strand ends with a page; null while it goes on.</summary>
    /// <exception cref="PageException">The page contradicts what came.</exception>
    public Ending? Check(PageSigns signs, Answer answer, PageScan scan, Way way)
    {
        Told = scan.Total ?? Told;
        _places.Saw(scan, way);
        CheckError(answer, scan);
        if (way.Ended is not { } ended)
            return null;

        var rows = Rows + scan.Rows;
        if (Told is { } told)
            return rows == told ? Ending.Counted : Differs(rows, told);
        if (run.Pull.Rows.Form == RowsForm.One && ended == Ending.OnePage)
            return Ending.OneRow;
        if (ended == Ending.OnePage && run.Pull.Window?.AtMost is not null)
            return Ending.BelowMost;
        if (ended == Ending.OnePage)
            _places.OnePage(signs, scan.Rows);
        return ended;
    }

    /// <summary>Refuses a page without rows that speaks of an error.</summary>
    /// <exception cref="PageException">It does; another attempt may not.</exception>
    public void CheckError(Answer answer, PageScan scan)
    {
        if (scan.Rows == 0 && answer.IsSuccess && PageSigns.Of(answer, run.Pull.Rows.At).Error is { } error)
            throw new PageException($"the page has no rows, and mentions an error at {error}", mayPass: true);
    }

    /// <summary>Counts a page that was landed.</summary>
    public void Landed(int rows)
    {
        if (rows > 0)
            _digests.Add(_digest);
        Rows += rows;
        Pages++;
        _largest = Math.Max(_largest, rows);
        _places.Came(rows);
    }

    // More rows than were told is a listing that moved; fewer is one that is not whole.
    private Ending Differs(long rows, long told)
    {
        if (rows < told * (1 - run.Pull.Paging.AllowMissing))
            throw new PageException(
                $"the listing ends after {rows:N0} of the {told:N0} rows announced at total: {run.Pull.Paging.Total!.Text} (allow-missing: tolerates a share of missing rows, for listings that change)",
                mayPass: true);
        run.Context.Warn(
            $"pull '{run.Pull.Name}'{run.Title} returned {rows:N0} rows instead of the announced {told:N0}; it changed while it was paged");
        return Ending.OtherCount;
    }

    private RefusedException Endless(ApiRequest request, string why, string cause, string? next = null) =>
        new(new Refusal(Outcome.ApiFailed, $"pull '{run.Pull.Name}'{run.Title} would never end: {why}")
        {
            Cause = cause,
            NextStep = next
            ?? $"compare paging: of pull '{run.Pull.Name}' with the API's documentation, and two pages with each other: cursiva call JOB {ShellWord.Of(run.Pull.Api)} {ShellWord.Of(ShownAddress.Of(request.Uri))}",
            Request = $"{request.Method} {ShownAddress.Of(request.Uri)}",
        });
}
