namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of <c>paging:</c>; each style adds its own (<see cref="PagingStyles"/>).</summary>
public static class PagingKeys
{
    // paging: where the next page is asked for, and where the listing ends; what tells it is said by each style
    public static readonly Key Parameter = new(
        "parameter",
        KeyKind.Texts,
        "the query parameter that sends the cursor, page number, offset or keyset value; a list if there are several values")
    {
        Example = "cursor",
    };
    public static readonly Key SendHeader = new("header", KeyKind.Texts, "the request header that sends it") { Example = "X-Cursor" };
    public static readonly Key BodyAt = new(
        "body-at",
        KeyKind.Pointers,
        "the place in body: that sends it; numbers stay numbers and objects stay objects")
    { Example = "/page/after" };
    public static readonly Key Placeholder = new(
        "placeholder", KeyKind.Texts, "the placeholder in get: or post: that sends it, for a page number in the path")
    { Example = "page" };
    public static readonly Key PageSize = new(
        "page-size",
        KeyKind.Number,
        "the number of rows in a full page; a page with fewer is the last one. If the server gives fewer than asked, what it gives counts as full")
    { Least = 1, Most = 1_000_000, Example = "200" };
    public static readonly Key SizeParameter = new("size-parameter", KeyKind.Text, "the query parameter that sends page-size")
    {
        Example = "limit",
    };
    public static readonly Key Total = new(
        "total",
        KeyKind.Pointer,
        "the place of the total number of rows in a page; it ends a counted listing, allows pages to be fetched in parallel, and is used to estimate the time left")
    { Example = "/page/total" };
    public static readonly Key Pages = new(
        "pages",
        KeyKind.Pointer,
        "the place of the total number of pages in a page; it ends a listing by page numbers and allows pages to be fetched in parallel")
    {
        Example = "/page/count",
    };
    public static readonly Key MoreAt = new("at", KeyKind.Pointer, "the place in a page that says whether another one follows")
    {
        Required = true,
        Example = "/page/more",
    };
    public static readonly Key MoreIs = new(
        "is",
        KeyKind.Text,
        "the value that means that another page follows; any other value means the end")
    { Required = true, Example = "\"Y\"" };
    public static readonly Section MoreSection = new(
        "more", "how a page says whether another one follows, if not with true, false, 1 or 0", [MoreAt, MoreIs]);
    public static readonly Key More = new(
        "more",
        KeyKind.PointerOrSection,
        "the place in a page that says whether another one follows: true, false, 1 or 0; or the place and the value that means yes")
    {
        Inside = MoreSection,
        Example = "/page/more",
    };
    public static readonly Key TotalHeader = new(
        "total-header", KeyKind.Text, "the response header with the total number of rows; works like total:")
    { Example = "X-Total-Count" };
    public static readonly Key PagesHeader = new(
        "pages-header", KeyKind.Text, "the response header with the total number of pages; works like pages:")
    { Example = "X-Page-Count" };
    public static readonly Key EndStatus = new(
        "end-status",
        KeyKind.Number,
        "the status that means that the requested page is past the last one")
    {
        Least = 204,
        Most = 499,
        Otherwise = "every error status is an error",
        Example = "404",
    };
    public static readonly Key MostPages = new(
        "most-pages",
        KeyKind.Number,
        "the most pages of one listing; a longer listing is considered endless and fails")
    {
        Least = 1,
        Otherwise = "100000",
        Example = "100000",
    };
    public static readonly Key MostRows = new(
        "most-rows",
        KeyKind.Number,
        "the most rows of one listing; a longer listing is considered endless and fails")
    {
        Least = 1,
        Otherwise = "1000000000",
        Example = "5000000",
    };
    public static readonly Key AllowMissing = new(
        "allow-missing",
        KeyKind.Share,
        "the share of the rows at total: that may be missing at the end, for listings that change while they are paged")
    {
        Otherwise = "none",
        Example = "1%",
    };
    public static readonly Key Optional = new(
        "optional",
        KeyKind.Switch,
        "whether a listing that fits on one page may omit the next link or cursor")
    {
        Otherwise = "false: the pull fails if no page had one and the page hints at another page",
        Example = "true",
    };
    public static readonly Key Delta = new(
        "changes",
        KeyKind.Pointer,
        "the place in the last page of the link or token that the next run uses to fetch only what has changed")
    {
        Example = "/links/changes",
    };
    public static readonly Key DeltaParameter = new(
        "changes-parameter",
        KeyKind.Text,
        "the query parameter that sends the token found at changes:")
    { Otherwise = "changes: finds a link", Example = "changes_since" };
    public static readonly Key WhenShifted = new(
        "when-shifted",
        KeyKind.Choice,
        "what to do if a counted listing shifts while it is paged: report it, or fetch it again from the start")
    {
        Choices = ["report", "again"],
        Otherwise = "report",
    };
    public static readonly Section PagingSection = new("paging", "how to find the next page and the end of the listing",
    [
        .. PagingStyles.All.SelectMany(style => style.Keys),
        Parameter,
        SendHeader,
        BodyAt,
        Placeholder,
        PageSize,
        SizeParameter,
        Total,
        TotalHeader,
        Pages,
        PagesHeader,
        More,
        EndStatus,
        MostPages,
        MostRows,
        AllowMissing,
        Optional,
        Delta,
        DeltaParameter,
        WhenShifted,
    ]);
}
