namespace Cursiva.Core.Pulls;

/// <summary>Why a listing ended.</summary>
/// <param name="Code">As it is recorded.</param>
/// <param name="Words">As people are told.</param>
/// <param name="IsProven">Whether the API said that this is the end, by a count or explicitly; otherwise it looks like it.</param>
public sealed record Ending(string Code, string Words, bool IsProven)
{
    /// <summary>As many rows came as the API told.</summary>
    public static readonly Ending Counted = new("counted", "as many rows as the API announced", IsProven: true);
    /// <summary>The last of the told pages came.</summary>
    public static readonly Ending LastPage = new("last-page", "the last page that the API announced", IsProven: true);
    /// <summary>No link or cursor, where earlier pages had one.</summary>
    public static readonly Ending NoNext = new("no-next", "the API names no next page", IsProven: true);
    /// <summary>The API says that no more follows.</summary>
    public static readonly Ending NoMore = new("no-more", "the API says that no more follows", IsProven: true);
    /// <summary>The status that the job declares as the end.</summary>
    public static readonly Ending NoPage = new("no-page", "the API says that there is no further page", IsProven: true);
    /// <summary>The stream ended properly.</summary>
    public static readonly Ending StreamEnd = new("end-of-stream", "the end of the stream", IsProven: true);
    /// <summary>All parts of an export came.</summary>
    public static readonly Ending Parts = new("all-parts", "all files of the export", IsProven: true);
    /// <summary>The whole file came.</summary>
    public static readonly Ending File = new("file", "the complete file", IsProven: true);
    /// <summary>An answer that is one row.</summary>
    public static readonly Ending OneRow = new("one-row", "one row", IsProven: true);
    /// <summary>A page shorter than the learnt size.</summary>
    public static readonly Ending ShortPage = new("short-page", "a page that was not full", IsProven: false);
    /// <summary>A page without rows.</summary>
    public static readonly Ending EmptyPage = new("empty-page", "a page without rows", IsProven: false);
    /// <summary>One page without a hint at another one.</summary>
    public static readonly Ending OnePage = new("one-page", "one page, with nothing that hints at more", IsProven: false);
    /// <summary>The end came, with another count than the one told.</summary>
    public static readonly Ending OtherCount = new(
        "other-count", "the end, although the API announced another number of rows", IsProven: false);

    /// <summary>A window with fewer rows than the API caps at.</summary>
    public static readonly Ending BelowMost = new("below-most", "fewer rows than the API returns at most", IsProven: true);

    /// <summary>A window that was asked for again in two halves; it says nothing of the pull.</summary>
    public static readonly Ending Halved = new("halved", "more rows than the API returns at once, fetched in halves", IsProven: true);

    /// <summary>Every ending.</summary>
    public static IReadOnlyList<Ending> All { get; } =
    [
        Counted,
        LastPage,
        NoNext,
        NoMore,
        NoPage,
        StreamEnd,
        Parts,
        File,
        OneRow,
        ShortPage,
        EmptyPage,
        OnePage,
        OtherCount,
        BelowMost,
        Halved,
    ];

    /// <summary>The ending that was recorded; null when none was.</summary>
    public static Ending? Of(string? code) => All.FirstOrDefault(ending => ending.Code == code);
}
