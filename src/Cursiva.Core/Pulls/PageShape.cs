using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Where a page has what the pull needs of it.</summary>
/// <param name="Drop">Places of rows that are taken out.</param>
public sealed record PageShape(RowSource Rows, IReadOnlyList<JsonPointer> Drop, Paging Paging)
{
    internal const int NextAt = 1;
    internal const int TotalAt = 2;
    internal const int PagesAt = 3;
    internal const int MoreAt = 4;
    internal const int DeltaAt = 5;

    /// <summary>From here on: the further places of a cursor that has several.</summary>
    internal const int FurtherAt = 6;

    /// <summary>Who knows the next page; null where there is none.</summary>
    internal Pager? Pager { get; } = ListingStyle.Of(Paging) as Pager;

    /// <summary>The places that are looked for; the rows first.</summary>
    internal IReadOnlyList<JsonPointer?> Watched { get; } =
    [
        Rows.At,
        Next(Paging) is [var next, ..] ? next : null,
        Paging.Total,
        Paging.Pages,
        Paging.More,
        Paging.Delta,
        .. Next(Paging).Skip(1),
    ];

    /// <summary>The shape of a page whose rows are an array.</summary>
    public static PageShape Of(JsonPointer rows, JsonPointer? next = null, JsonPointer? total = null) =>
        new(
            new RowSource(RowsForm.Array, rows),
            [],
            new Paging(NextLinkStyle.Declared) { Places = next is null ? [] : [next], Total = total });

    private static IReadOnlyList<JsonPointer> Next(Paging paging) => (ListingStyle.Of(paging) as Pager)?.NextPlaces ?? [];

    internal static string NameOf(int watched) => watched switch
    {
        0 => "rows",
        NextAt => "the link or cursor of the next page",
        TotalAt => "the total",
        PagesAt => "the number of pages",
        MoreAt => "whether more follows",
        DeltaAt => "the delta token",
        _ => "a cursor of the next page",
    };
}
