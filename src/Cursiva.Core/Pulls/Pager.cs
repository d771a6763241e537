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

    /// <summary>Where the listing goes on behind a page; null when it was the last one.</summary>
    /// <exception cref="PageException">A link is no address.</exception>
    public string? Next(PageFacts page, string? position)
    {
        if (page.Scan.More == false)
            return null;
        return paging.Style switch
        {
            PagingStyle.NextLink => Link(page, page.Scan.Next),
            PagingStyle.LinkHeader => Link(page, page.Answer.Header("Link") is { } header ? LinkHeader.Find(header, paging.AnswerHeader!) : null),
            PagingStyle.Cursor => NotEmpty(paging.AnswerHeader is null ? page.Scan.Next : page.Answer.Header(paging.AnswerHeader)),
            PagingStyle.Keyset => page.Scan.Rows == 0 || IsShort(page.Scan) ? null : page.LastKey,
            PagingStyle.PageNumber or PagingStyle.Offset => NextCount(page.Scan, CountedPosition.Parse(position!))?.ToString(),
            _ => null,
        };
    }

    /// <summary>The positions behind a page up to the end of the listing, where the page tells how many there are; otherwise null.</summary>
    public IEnumerable<string>? Ahead(PageScan scan, string position)
    {
        if (scan.Rows <= 0 || paging.More is not null || (scan.Total is null && scan.Pages is null))
            return null;
        var at = CountedPosition.Parse(position);
        var size = paging.PageSize ?? scan.Rows;
        long pages;
        if (scan.Pages is { } all)
            pages = paging.First + all - 1 - at.Number;
        else
            pages = (Math.Max(0, scan.Total!.Value - at.Rows - scan.Rows) + size - 1) / size;
        return Enumerable.Range(1, (int)Math.Clamp(pages, 0, int.MaxValue - 1)).Select(step => Step(at, scan.Rows, size, step).ToString());
    }

    private CountedPosition Step(CountedPosition at, int rows, int size, int step) =>
        new(at.Number + (paging.Style == PagingStyle.Offset ? rows + ((step - 1) * (long)size) : step), at.Rows + rows + ((step - 1) * (long)size));

    private CountedPosition? NextCount(PageScan scan, CountedPosition at)
    {
        var rows = at.Rows + scan.Rows;
        if (scan.Rows == 0 || rows >= scan.Total)
            return null;
        if (scan.Pages is { } pages ? at.Number >= paging.First + pages - 1 : scan.Total is null && IsShort(scan))
            return null;
        return new CountedPosition(at.Number + (paging.Style == PagingStyle.Offset ? scan.Rows : 1), rows);
    }

    private bool IsShort(PageScan scan) => scan.Rows < paging.PageSize;

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
