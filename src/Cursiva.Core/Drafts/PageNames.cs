using System.Text.RegularExpressions;

namespace Cursiva.Core.Drafts;

/// <summary>The names that APIs give to what pages are found by, without what parts their words.</summary>
internal static partial class PageNames
{
    /// <summary>What a request calls a page number.</summary>
    public static IReadOnlyList<string> PageParameters { get; } =
    [
        "page",
        "p",
        "page_number",
        "pageNumber",
        "page[number]",
        "pageno",
        "page_no",
    ];

    /// <summary>What a request calls the number of the first row.</summary>
    public static IReadOnlyList<string> OffsetParameters { get; } =
    [
        "offset",
        "skip",
        "start",
        "from",
        "startAt",
        "startIndex",
        "start_index",
        "page[offset]",
        "first",
    ];

    /// <summary>What a request calls a cursor.</summary>
    public static IReadOnlyList<string> CursorParameters { get; } =
    [
        "cursor",
        "after",
        "page_token",
        "pageToken",
        "next",
        "token",
        "starting_after",
        "continuation",
        "from",
        "page[after]",
    ];

    /// <summary>What a request calls the key that the next page starts behind.</summary>
    public static IReadOnlyList<string> KeyParameters { get; } = ["after", "since_id", "starting_after", "after_id", "last_id"];

    /// <summary>What a request calls the rows of a page.</summary>
    public static IReadOnlyList<string> SizeParameters { get; } =
    [
        "size",
        "limit",
        "page_size",
        "per_page",
        "pageSize",
        "count",
        "page[size]",
        "perPage",
        "max_results",
        "maxResults",
        "top",
    ];

    /// <summary>Whether a name may be that of a link to the next page.</summary>
    public static bool IsNext(string plain) => Next().IsMatch(plain);

    /// <summary>Whether a name may be that of a cursor.</summary>
    public static bool IsCursor(string plain) => Cursor().IsMatch(plain);

    /// <summary>Whether a header may be a cursor.</summary>
    public static bool IsCursorHeader(string name) => CursorHeader().IsMatch(name);

    /// <summary>Whether a name may be that of a page's number.</summary>
    public static bool IsPage(string plain) => Page().IsMatch(plain);

    /// <summary>Whether a name may be that of the number of the page's first row.</summary>
    public static bool IsOffset(string plain) => Offset().IsMatch(plain);

    /// <summary>Whether a name may be that of the number of all rows.</summary>
    public static bool IsTotal(string plain) => Total().IsMatch(plain) && !plain.Contains("page", StringComparison.Ordinal);

    /// <summary>Whether a name may be that of the number of all pages.</summary>
    public static bool IsPages(string plain) => Pages().IsMatch(plain);

    /// <summary>Whether a name may tell that another page follows.</summary>
    public static bool IsMore(string plain) => More().IsMatch(plain);

    /// <summary>Whether a name may be that of a row's own id.</summary>
    public static bool IsKey(string plain) => Key().IsMatch(plain);

    /// <summary>The link's name in an array of links.</summary>
    public static IReadOnlyList<string> LinkAddresses { get; } = ["href", "url", "uri", "link"];

    [GeneratedRegex(@"next|following|^more(?:url|link)$")]
    private static partial Regex Next();

    [GeneratedRegex(@"cursor|continuation|^(?:next|after|marker|bookmark|position|scrollid|resumptiontoken|nextkey|nextoffset|nextstart|nextid|nextpage|offset|lastkey|lastid)$|token$|^next(?!.*(?:link|url|uri|href))")]
    private static partial Regex Cursor();

    [GeneratedRegex("cursor|continuation|next-|next$", RegexOptions.IgnoreCase)]
    private static partial Regex CursorHeader();

    [GeneratedRegex(@"^(?:page|pageno|pagenumber|pageindex|pagenum|currentpage|number|pagecurrent|p)$")]
    private static partial Regex Page();

    [GeneratedRegex(@"^(?:offset|skip|start|startat|startindex|from|first|firstrow)$")]
    private static partial Regex Offset();

    [GeneratedRegex(@"^(?:\w*total\w*|count|rowcount|recordcount|recordsfound|resultcount|itemcount|hits|matches|found|\w*found|size|number(?:of)?(?:rows|items|results|records))$")]
    private static partial Regex Total();

    [GeneratedRegex(@"^(?:pages|pagecount|\w*totalpages?|pagestotal|lastpage|numberofpages|numpages|pagescount|maxpage)$")]
    private static partial Regex Pages();

    [GeneratedRegex(@"^(?:more|\w*hasmore\w*|hasnext\w*|ismore|moreavailable|moreresults|truncated|istruncated|incomplete)$")]
    private static partial Regex More();

    [GeneratedRegex(@"^(?:id|uuid|guid|key|uid|code|number|reference|ref|name)$|(?:id|uuid|guid|key|reference|number|code)$")]
    private static partial Regex Key();
}
