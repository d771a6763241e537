using System.Globalization;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Follows one style of paging. A position says where a listing goes on: a link, a cursor, a count, or the key of a row; it is
/// what the landing keeps of a page.
/// </summary>
internal sealed class Pager(Paging paging)
{
    /// <summary>Whether the next position depends on the rows of a page.</summary>
    public bool NeedsRows => paging.IsCounted || paging.Style == PagingStyle.Keyset;

    /// <summary>Where the listing begins; null when its first request sends nothing.</summary>
    public string? First => paging.Style switch
    {
        PagingStyle.PageNumber => new CountedPosition(paging.First, 0).ToString(),
        PagingStyle.Offset => new CountedPosition(paging.First, 0).ToString(),
        _ => null,
    };

    /// <summary>How the listing goes on behind a page.</summary>
    /// <exception cref="PageException">A link is no address, or the page contradicts itself.</exception>
    public Way Next(PageFacts page, string? position)
    {
        if (page.Scan.More == false)
            return Way.End(Ending.NoMore);
        var way = paging.Style switch
        {
            PagingStyle.OnePage => Way.End(Ending.OnePage),
            PagingStyle.NextLink => Named(Link(page, page.Scan.Next), page.Scan.HasNext, page),
            PagingStyle.LinkHeader => Named(Link(page, page.Answer.Header("Link") is { } header ? LinkHeader.Find(header, paging.AnswerHeader!, page.Uri) : null), page.Answer.Header("Link") is { } links && LinkHeader.Find(links, "next", page.Uri) is null, page),
            PagingStyle.Cursor when paging.AnswerHeader is { } name => Named(NotEmpty(page.Answer.Header(name)), page.Answer.Header(name) is not null, page),
            PagingStyle.Cursor => Named(NotEmpty(page.Scan.Next), page.Scan.HasNext, page),
            PagingStyle.Keyset => Keyset(page),
            PagingStyle.PageNumber or PagingStyle.Offset => Count(page, CountedPosition.Parse(position!)),
            _ => throw new InvalidOperationException($"{paging.Style} has no pages"),
        };
        if (way.Next is null && page.Scan.More == true)
            throw new PageException($"more: {paging.More!.Text} says that another page follows, and nothing leads to it", mayPass: true);
        return way;
    }

    /// <summary>The positions behind a page up to the end of the listing, where the page tells how many there are; otherwise null.</summary>
    public IEnumerable<string>? Ahead(PageFacts page, string position)
    {
        var scan = page.Scan;
        if (scan.Rows <= 0 || paging.More is not null || (scan.Total is null && scan.Pages is null))
            return null;
        var at = CountedPosition.Parse(position);

        // The size of a page is what came: servers give fewer rows than were asked for.
        var size = Math.Max(scan.Rows, page.LargestPage);
        var pages = scan.Pages is { } all
            ? paging.First + all - 1 - at.Number
            : (Math.Max(0, scan.Total!.Value - page.RowsBefore - scan.Rows) + size - 1) / size;
        return Enumerable.Range(1, (int)Math.Clamp(pages, 0, int.MaxValue - 1)).Select(step => Step(at, page, size, step).ToString());
    }

    private CountedPosition Step(CountedPosition at, PageFacts page, int size, int step) =>
        new(at.Number + (paging.Style == PagingStyle.Offset ? page.Scan.Rows + ((step - 1) * (long)size) : step), page.RowsBefore + page.Scan.Rows + ((step - 1) * (long)size));

    // A page that has no such place ends a listing only where earlier ones had it; of the first one it may mean anything.
    private static Way Named(string? next, bool isThere, PageFacts page) =>
        next is not null ? Way.On(next) : Way.End(isThere || !page.IsFirst ? Ending.NoNext : Ending.OnePage);

    private Way Keyset(PageFacts page) =>
        page.Scan.Rows == 0 ? Way.End(Ending.EmptyPage) : IsShort(page) ? Way.End(Ending.ShortPage) : Way.On(page.LastKey!);

    private Way Count(PageFacts page, CountedPosition at)
    {
        var (scan, rows) = (page.Scan, page.RowsBefore + page.Scan.Rows);
        var isLast = at.Number >= paging.First + scan.Pages - 1;
        if (scan.Rows == 0 && (rows < scan.Total || (scan.Pages is not null && !isLast)))
            throw new PageException($"a page in the middle of the listing has no rows: {rows:N0} {(rows == 1 ? "row" : "rows")} came before it, and the API tells {(scan.Total is { } told ? $"{told:N0} rows" : $"{scan.Pages:N0} pages")}", mayPass: true);
        if (scan.Total is { } total && rows >= total)
            return Way.End(Ending.Counted);
        if (isLast)
            return Way.End(Ending.LastPage);
        if (scan.Rows == 0)
            return Way.End(Ending.EmptyPage);
        if (scan.Total is null && scan.Pages is null && IsShort(page))
            return Way.End(Ending.ShortPage);
        return Way.On(new CountedPosition(at.Number + (paging.Style == PagingStyle.Offset ? scan.Rows : 1), rows).ToString());
    }

    // Short is what has fewer rows than a page before it: how many the server gives is learnt from what came. A first page with fewer
    // than were asked for is no end yet, since the server may give no more at once.
    private bool IsShort(PageFacts page) => paging.PageSize is { } size && page.Scan.Rows < Math.Min(size, page.LargestPage);

    private static string? Link(PageFacts page, string? link)
    {
        if (string.IsNullOrEmpty(link))
            return null;
        if (Uri.TryCreate(page.Uri, link, out var address) && address.Scheme is "http" or "https")
            return address.AbsoluteUri;
        throw new PageException($"the link to the next page is no address: '{link}'");
    }

    private static string? NotEmpty(string? text) => string.IsNullOrEmpty(text) ? null : text;

    // A page number or offset, and the rows of the pages before.
    private sealed record CountedPosition(long Number, long Rows)
    {
        public static CountedPosition Parse(string text)
        {
            var parts = text.Split(' ');
            return new CountedPosition(long.Parse(parts[0], CultureInfo.InvariantCulture), long.Parse(parts[1], CultureInfo.InvariantCulture));
        }

        public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Number} {Rows}");
    }
}
