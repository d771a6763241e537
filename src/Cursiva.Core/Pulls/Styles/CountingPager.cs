using System.Globalization;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Counts pages or rows, so that pages can be asked for before the ones in front of them have come.</summary>
internal abstract class CountingPager(Paging paging) : SendingPager(paging)
{
    public sealed override bool NeedsRows => true;

    public sealed override string First => new CountedPosition(Paging.First, 0).ToString();

    public sealed override IEnumerable<string>? Ahead(PageFacts page, string position)
    {
        var scan = page.Scan;
        if (scan.Rows <= 0 || Paging.More is not null || (scan.Total is null && scan.Pages is null))
            return null;
        var at = CountedPosition.Parse(position);

        // The size of a page is what came: servers give fewer rows than were asked for.
        var size = Math.Max(scan.Rows, page.LargestPage);
        var pages = scan.Pages is { } all
            ? Paging.First + all - 1 - at.Number
            : (Math.Max(0, scan.Total!.Value - page.RowsBefore - scan.Rows) + size - 1) / size;
        return Enumerable.Range(1, (int)Math.Clamp(pages, 0, int.MaxValue - 1))
            .Select(
                step => new CountedPosition(
                    Number(at.Number, scan.Rows, size, step), page.RowsBefore + scan.Rows + ((step - 1) * (long)size)).ToString());
    }

    public sealed override bool IsSame(string one, string other) =>
        CountedPosition.Parse(one).Number == CountedPosition.Parse(other).Number;

    /// <summary>The number to ask for so many pages further on.</summary>
    /// <param name="rows">Rows of the page at that number.</param>
    /// <param name="size">Rows of every page after it.</param>
    protected abstract long Number(long at, int rows, int size, int step);

    protected sealed override IReadOnlyList<string> Values(string position) =>
        [CountedPosition.Parse(position).Number.ToString(CultureInfo.InvariantCulture)];

    protected sealed override Way Behind(PageFacts page, string? position)
    {
        var at = CountedPosition.Parse(position!);
        var (scan, rows) = (page.Scan, page.RowsBefore + page.Scan.Rows);
        var isLast = at.Number >= Paging.First + scan.Pages - 1;
        if (scan.Rows == 0 && (rows < scan.Total || (scan.Pages is not null && !isLast)))
            throw new PageException(
                $"a page in the middle of the listing has no rows: {rows:N0} {(rows == 1 ? "row" : "rows")} came before it, and the API announced {(scan.Total is { } told ? $"{told:N0} rows" : $"{scan.Pages:N0} pages")}",
                mayPass: true);
        if (scan.Total is { } total && rows >= total)
            return Way.End(Ending.Counted);
        if (isLast)
            return Way.End(Ending.LastPage);
        if (scan.Rows == 0)
            return Way.End(Ending.EmptyPage);
        if (scan.Total is null && scan.Pages is null && IsShort(page))
            return Way.End(Ending.ShortPage);
        return Way.On(new CountedPosition(Number(at.Number, scan.Rows, scan.Rows, 1), rows).ToString());
    }

    // A page number or offset, and the rows of the pages before.
    private sealed record CountedPosition(long Number, long Rows)
    {
        public static CountedPosition Parse(string text)
        {
            var parts = text.Split(' ');
            return new CountedPosition(
                long.Parse(parts[0], CultureInfo.InvariantCulture), long.Parse(parts[1], CultureInfo.InvariantCulture));
        }

        public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Number} {Rows}");
    }
}
