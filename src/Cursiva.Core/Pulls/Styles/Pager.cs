using Cursiva.Core.Http;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Follows a style of paging that has pages. A position says where a listing goes on: a link, a cursor, a count, or the key of a row;
/// it is what the landing keeps of a page, and nobody but its pager knows what is in it.
/// </summary>
internal abstract class Pager(Paging paging) : ListingStyle
{
    protected Paging Paging => paging;

    /// <summary>Whether the next position depends on the rows of a page.</summary>
    public virtual bool NeedsRows => false;

    /// <summary>Where the listing begins; null when its first request sends nothing.</summary>
    public virtual string? First => null;

    /// <summary>The key that declares where the way on is named, and that place; null where none is.</summary>
    public virtual (string Key, string Text)? NextPlace => null;

    /// <summary>What leads from a page to the next one, in words, where it leads nowhere.</summary>
    public abstract string WayOn { get; }

    /// <summary>The places of a page that lead to the next one.</summary>
    public virtual IReadOnlyList<JsonPointer> NextPlaces => [];

    /// <summary>What stands at these places, as <see cref="PageScan.Next"/> has it; null for nothing.</summary>
    /// <param name="places">The token at each of <see cref="NextPlaces"/>; -1 where the page has none.</param>
    /// <exception cref="PageException">It leads nowhere.</exception>
    public virtual string? NextIn(PageBuffer page, TokenIndex index, IReadOnlyList<int> places) => null;

    /// <summary>How the listing continues after a page.</summary>
    /// <exception cref="PageException">A link is not an address, or the page contradicts itself.</exception>
    public Way Next(PageFacts page, string? position)
    {
        if (page.Scan.More == false)
            return Way.End(Ending.NoMore);
        var way = Behind(page, position);
        if (way.Next is null && page.Scan.More == true)
            throw new PageException($"more: {paging.More!.Text} says that another page follows, but nothing leads to it", mayPass: true);
        return way;
    }

    /// <summary>
    /// The positions behind a page up to the end of the listing, where the page tells how many there are; otherwise null.
    /// </summary>
    public virtual IEnumerable<string>? Ahead(PageFacts page, string position) => null;

    /// <summary>The request for a position.</summary>
    public abstract AskedPage Ask(AskedPage first, string position);

    /// <summary>A position as it may be kept.</summary>
    /// <param name="kept">Takes secrets out of an address.</param>
    public virtual string Kept(string position, Func<Uri, Uri> kept) => position;

    /// <summary>Whether two positions ask for the same page.</summary>
    public virtual bool IsSame(string one, string other) => one == other;

    /// <summary>What the last row of a page gives to the next position; null when nothing.</summary>
    /// <param name="lines">The rows as JSON lines.</param>
    /// <exception cref="PageException">The row lacks it.</exception>
    public virtual string? LastKey(ReadOnlySpan<byte> lines) => null;

    public override Task RunAsync(StrandRun run, CancellationToken cancel) => new PagedListing(run, this).RunAsync(cancel);

    protected abstract Way Behind(PageFacts page, string? position);

    // A page that has no such place ends a listing only where earlier ones had it; of the first one it may mean anything.
    protected static Way Named(string? next, bool isThere, PageFacts page) =>
        next is not null ? Way.On(next) : Way.End(isThere || !page.IsFirst ? Ending.NoNext : Ending.OnePage);

    // Short is what has fewer rows than a page before it: how many the server gives is learnt from what came. A first page with fewer
    // than were asked for is no end yet, since the server may give no more at once.
    protected bool IsShort(PageFacts page) => paging.PageSize is { } size && page.Scan.Rows < Math.Min(size, page.LargestPage);
}
