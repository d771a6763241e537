namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of <c>export:</c>.</summary>
public static class ExportKeys
{
    public static readonly Key PollAt = new("poll-at", KeyKind.Pointer, "the place of the address to poll in the submission's answer")
    {
        Otherwise = "the Location header",
        Example = "/links/status",
    };
    public static readonly Key Every = new("every", KeyKind.Duration, "the pause between two polls, unless Retry-After asks for another")
    {
        Otherwise = "5s",
        Example = "5s",
    };
    public static readonly Key ExportState = new("state", KeyKind.Pointer, "the place of the export's state in an answer")
    {
        Otherwise = "status 202 means that it is still running, 200 that it is done",
        Example = "/state",
    };
    public static readonly Key Done = new("done", KeyKind.Texts, "the states that mean done") { Example = "[ready]" };
    public static readonly Key Failed = new("failed", KeyKind.Texts, "the states that mean failed") { Example = "[failed, cancelled]" };
    public static readonly Key Parts = new("files", KeyKind.Pointer, "the place of the array of files in the last answer")
    {
        Otherwise = "the whole answer is the array",
        Example = "/parts",
    };
    public static readonly Key PartLink = new(
        "link",
        KeyKind.Pointer,
        "the place of a file's address in its entry; with result: rows, the place of the rows' address in the last answer")
    {
        Otherwise = "the entry is the address",
        Example = "/url",
    };
    public static readonly Key Result = new(
        "result",
        KeyKind.Choice,
        "how the export is returned: as files that the last answer lists, or as rows, in the last answer or behind a 303")
    {
        Choices = ["files", "rows"],
        Otherwise = "files",
        Example = "rows",
    };
    public static readonly Key PartRows = new(
        "rows",
        KeyKind.Pointer,
        "the place of a file's row count in its entry; a file with another count is damaged")
    {
        Otherwise = "not checked",
        Example = "/row_count",
    };
    public static readonly Key PartBytes = new(
        "bytes",
        KeyKind.Pointer,
        "the place of a file's size in bytes in its entry, compressed or not")
    { Otherwise = "not checked", Example = "/size" };
    public static readonly Key PartDigest = new(
        "sha256",
        KeyKind.Pointer,
        "the place of a file's SHA-256 in its entry, in hex or base64, compressed or not")
    {
        Otherwise = "not checked",
        Example = "/sha256",
    };
    public static readonly Key PartForm = new("form", KeyKind.Choice, "the format of the files, compressed with gzip or not")
    {
        Choices = ["lines", "csv"],
        Otherwise = "lines",
    };
    public static readonly Key FindGet = new("get", KeyKind.Path, "the path of the API's list of exports; only its first page is read")
    {
        Required = true,
        Example = "/exports{?submission}",
    };
    public static readonly Key FindRows = new("rows", KeyKind.Pointer, "the place of the array of exports in the answer")
    {
        Otherwise = "the whole answer is the array",
        Example = "/items",
    };
    public static readonly Key FindWhere = new(
        "where",
        KeyKind.TextMap,
        "the values that identify the export, as JSON Pointers and values; {submission} is the id that the request sent")
    {
        Otherwise = "get: must narrow the list by itself",
        Example = "{ /reference: \"{submission}\" }",
    };
    public static readonly Key FindLink = new("link", KeyKind.Pointer, "the place of the address to poll in a listed export")
    {
        Required = true,
        Example = "/links/self",
    };
    public static readonly Section FindSection = new(
        "find",
        "how to find an export whose submission got no answer; the submission sends the id {submission}",
        [FindGet, FindRows, FindWhere, FindLink]);
    public static readonly Key Find = new(
        "find",
        KeyKind.Section,
        "finds an export whose submission got no answer, instead of submitting it again; {submission} is the submission's unique id")
    {
        Inside = FindSection,
    };
    public static readonly Section ExportSection = new("export", "submits an export, waits for it and downloads its files",
    [
        Find,
        PollAt,
        Every,
        ExportState,
        Done,
        Failed,
        Result,
        Parts,
        PartLink,
        PartForm,
        PartRows,
        PartBytes,
        PartDigest,
    ]);
}
