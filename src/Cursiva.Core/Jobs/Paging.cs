namespace Cursiva.Core.Jobs;

/// <summary>How the next page is found, and where a listing ends.</summary>
public sealed record Paging(PagingStyle Style)
{
    /// <summary>
    /// Where a page has the next link or cursor, or the last row the values of a keyset; a cursor or keyset may have several.
    /// </summary>
    public IReadOnlyList<JsonPointer> Places { get; init; } = [];

    /// <summary>The first of <see cref="Places"/>; null without one.</summary>
    public JsonPointer? At => Places.Count > 0 ? Places[0] : null;

    /// <summary>The response header with the cursor, or the relation of the Link header.</summary>
    public string? AnswerHeader { get; init; }

    /// <summary>What takes cursor, number, offset or values: one for each of several values, or any number for one.</summary>
    public IReadOnlyList<PositionTarget> Targets { get; init; } = [];

    /// <summary>The number of the first page, or the first offset.</summary>
    public int First { get; init; }

    /// <summary>Rows in a full page; a page with fewer is the last.</summary>
    public int? PageSize { get; init; }

    /// <summary>The query parameter that asks for so many rows.</summary>
    public string? SizeParameter { get; init; }

    /// <summary>Where a page tells how many rows there are in all.</summary>
    public JsonPointer? Total { get; init; }

    /// <summary>The response header that tells it.</summary>
    public string? TotalHeader { get; init; }

    /// <summary>The response header that tells how many pages there are.</summary>
    public string? PagesHeader { get; init; }

    /// <summary>The status behind the last page; null when there is none.</summary>
    public int? EndStatus { get; init; }

    /// <summary>Which of the links that stand at <see cref="At"/> is the next one; null when the link itself does.</summary>
    public LinkChoice? Link { get; init; }

    /// <summary>Where a page tells how many pages there are.</summary>
    public JsonPointer? Pages { get; init; }

    /// <summary>Where a page tells whether another one follows.</summary>
    public JsonPointer? More { get; init; }

    /// <summary>The value there that means that one does; null for true, false, 1 and 0.</summary>
    public string? MoreIs { get; init; }

    /// <summary>Most pages of one strand.</summary>
    public int MostPages { get; init; } = DefaultMostPages;

    /// <summary>Most rows of one strand.</summary>
    public long MostRows { get; init; } = DefaultMostRows;

    /// <summary>The share of the told rows that may be missing at the end, 0 to 1.</summary>
    public double AllowMissing { get; init; }

    /// <summary>Whether a listing of one page may lack the place of the next link or cursor.</summary>
    public bool OnePageMayLackIt { get; init; }

    /// <summary>Pages beyond which a listing is taken for endless.</summary>
    public const int DefaultMostPages = 100_000;

    /// <summary>Rows beyond which a listing is taken for endless.</summary>
    public const long DefaultMostRows = 1_000_000_000;

    /// <summary>The form of a stream.</summary>
    public StreamForm Stream { get; init; }

    /// <summary>Where the last page has the token or link with which the next run asks for changes alone.</summary>
    public JsonPointer? Delta { get; init; }

    /// <summary>The query parameter that takes the delta token; null when it is a link.</summary>
    public string? DeltaParameter { get; init; }

    /// <summary>Whether a listing that shifted while it was paged is taken again from its start.</summary>
    public bool AgainWhenShifted { get; init; }

    /// <summary>That of a listing of one page.</summary>
    public static Paging OnePage { get; } = new(PagingStyles.All.Single(style => style.HasOnePage));
}
