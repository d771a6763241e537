using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Which of the places that a pull's <c>paging:</c> declares its pages had, over all strands. A place that no page had is misspelt more
/// often than not, and its listing then ends after the first page.
/// </summary>
/// <param name="before">What was seen before this start.</param>
/// <param name="ledOnOnce">Whether pages led on to others in an earlier good run, so that the place is known to be right.</param>
internal sealed class DeclaredPlaces(Pull pull, (bool LedOn, bool Told, bool HasRows) before, bool ledOnOnce, Action<string> warn)
{
    // So many first pages are looked at closely; those of further strands are of the same API.
    private const int MostLookedAt = 20;

    private readonly Lock _gate = new();
    private bool _next = before.LedOn || ledOnOnce;
    private bool _total = before.Told;
    private bool _pages = before.LedOn;
    private bool _more = before.LedOn;
    private bool _rows;
    private ulong _seen = before.HasRows ? ulong.MaxValue : 0;
    private int _looked;
    private PageSigns? _first;
    private PageSigns? _signs;
    private int _rowsOfOne;

    /// <summary>Whether the API gives as many rows a page as it is asked for.</summary>
    public bool GivesFullPages { get; private set; }

    /// <summary>Whether the first page of one more strand is looked at for signs of another page.</summary>
    public bool WantsSigns() => Volatile.Read(ref _looked) < MostLookedAt && Interlocked.Increment(ref _looked) <= MostLookedAt;

    /// <summary>Notes what a first page has.</summary>
    public PageSigns Look(PageSigns signs)
    {
        lock (_gate)
            _first ??= signs;
        return signs;
    }

    /// <summary>Notes what a page had.</summary>
    public void Saw(PageScan scan, Way way)
    {
        lock (_gate)
        {
            _next |= way.Next is not null || way.Ended == Ending.NoNext;
            _total |= scan.Total is not null;
            _pages |= scan.Pages is not null;
            _more |= scan.More is not null;
            _seen |= scan.Seen;
        }
    }

    /// <summary>Notes what a piece of a stream had.</summary>
    public void Saw(PageScan scan)
    {
        lock (_gate)
            _seen |= scan.Seen;
        Came(scan.Rows);
    }

    /// <summary>Notes a listing of one page without a way on.</summary>
    public void OnePage(PageSigns signs, int rows)
    {
        lock (_gate)
        {
            if (_signs is null || (_signs.Hints.Count == 0 && signs.Hints.Count > 0))
                (_signs, _rowsOfOne) = (signs, rows);
            else if (PageSigns.IsRound(rows) && !PageSigns.IsRound(_rowsOfOne) && _signs.Hints.Count == 0)
                (_signs, _rowsOfOne) = (signs, rows);
        }
    }

    /// <summary>Notes the rows of a page.</summary>
    public void Came(int rows)
    {
        if (rows == 0)
            return;
        lock (_gate)
        {
            _rows = true;
            GivesFullPages |= rows == pull.Paging.PageSize;
        }
    }

    /// <summary>Looks at the pull once all of it came.</summary>
    /// <exception cref="RefusedException">A declared place was on no page.</exception>
    public void Check()
    {
        if (!_rows)
            return;
        var (paging, signs) = (pull.Paging, _signs ?? _first ?? PageSigns.None);
        foreach (var (bit, expected) in pull.Rows.Expected.Index())
        {
            if ((_seen & (1UL << bit)) == 0)
                throw Missing(
                    expected.Key,
                    expected.Place,
                    signs,
                    "",
                    $"correct {expected.Key}: of pull '{pull.Name}', and run again; if no page needs to have it, add optional: true next to it");
        }

        if (paging.Total is { } total && !_total)
            throw Missing("total", total.Text, signs);
        if (paging.TotalHeader is { } totalHeader && !_total)
            throw Missing("total-header", totalHeader, signs);
        if (paging.Pages is { } pages && !_pages)
            throw Missing("pages", pages.Text, signs);
        if (paging.PagesHeader is { } pagesHeader && !_pages)
            throw Missing("pages-header", pagesHeader, signs);
        if (paging.More is { } more && !_more)
            throw Missing("more", more.Text, signs);
        var hints = HintsOf(signs);
        if (paging.Style.HasOnePage)
        {
            if (_signs is not null && hints.Count > 0)
                warn($"pull '{pull.Name}' declares no paging:, and its page hints at another one: {string.Join(", ", hints)}; declare how to find the next page, or check that this is everything");
            return;
        }

        if (_next || _signs is null || paging.OnePageMayLackIt || (ListingStyle.Of(paging) as Pager)?.NextPlace is not { } next)
            return;
        var (key, place) = next;
        if (hints.Count > 0)
            throw Missing(key, place, signs, $", and the page hints at another one: {string.Join(", ", hints)}");
        warn($"pull '{pull.Name}' considered one page complete: no page had {key}: {place}; {signs.Nearest(place)}");
    }

    private List<string> HintsOf(PageSigns signs)
    {
        List<string> hints =
        [
            .. signs.Hints,
            .. signs.Totals.Where(total => total.Value > _rowsOfOne).Select(
                total => $"{total.Key} is {total.Value:N0}, and {_rowsOfOne:N0} {(_rowsOfOne == 1 ? "row" : "rows")} came"),
        ];
        // Of a batch of fifty, fifty rows are what was asked for.
        if (hints.Count == 0 && pull.Per is not { Batch: > 1 } && PageSigns.IsRound(_rowsOfOne) && _signs is not null && !HasParent(signs))
            hints.Add($"it has exactly {_rowsOfOne:N0} rows");
        return hints;
    }

    // Where the object is there that has the place on other pages, the API says by leaving it out that this is the end.
    private bool HasParent(PageSigns signs) =>
        pull.Paging.At is { Segments.Count: > 1 } at && signs.Members.Contains(at.Text[..at.Text.LastIndexOf('/')]);

    private RefusedException Missing(string key, string place, PageSigns signs, string hints = "", string? next = null) =>
        new(new Refusal(
            Outcome.ApiFailed, $"pull '{pull.Name}' is not proven complete: no page had {key}: {place}{hints}; {signs.Nearest(place)}")
        {
            Cause = "the place is misspelt, or the API has it only sometimes",
            NextStep = next ?? (key is not ("next-link" or "link-header" or "cursor-header" or "cursor")
            ? $"correct {key}: in paging: of pull '{pull.Name}', or remove it, and run again"
            : $"correct {key}: in paging: of pull '{pull.Name}', and run again; if a listing of one page omits it, add optional: true there"),
        });
}
