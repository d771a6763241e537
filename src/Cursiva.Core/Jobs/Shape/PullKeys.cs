namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of a pull.</summary>
public static class PullKeys
{
    // paging: where the next page is asked for, and where the listing ends; what tells it is said by each style
    public static readonly Key Parameter = new("parameter", KeyKind.Texts, "the query parameter that sends the cursor, page number, offset or keyset value; a list if there are several values") { Example = "cursor" };
    public static readonly Key SendHeader = new("header", KeyKind.Texts, "the request header that sends it") { Example = "X-Cursor" };
    public static readonly Key BodyAt = new("body-at", KeyKind.Pointers, "the place in body: that sends it; numbers stay numbers and objects stay objects") { Example = "/page/after" };
    public static readonly Key Placeholder = new("placeholder", KeyKind.Texts, "the placeholder in get: or post: that sends it, for a page number in the path") { Example = "page" };
    public static readonly Key PageSize = new("page-size", KeyKind.Number, "the number of rows in a full page; a page with fewer is the last one. If the server gives fewer than asked, what it gives counts as full") { Least = 1, Most = 1_000_000, Example = "200" };
    public static readonly Key SizeParameter = new("size-parameter", KeyKind.Text, "the query parameter that sends page-size") { Example = "limit" };
    public static readonly Key Total = new("total", KeyKind.Pointer, "the place of the total number of rows in a page; it ends a counted listing, allows pages to be fetched in parallel, and is used to estimate the time left") { Example = "/page/total" };
    public static readonly Key Pages = new("pages", KeyKind.Pointer, "the place of the total number of pages in a page; it ends a listing by page numbers and allows pages to be fetched in parallel") { Example = "/page/count" };
    public static readonly Key MoreAt = new("at", KeyKind.Pointer, "the place in a page that says whether another one follows") { Required = true, Example = "/page/more" };
    public static readonly Key MoreIs = new("is", KeyKind.Text, "the value that means that another page follows; any other value means the end") { Required = true, Example = "\"Y\"" };
    public static readonly Section MoreSection = new("more", "how a page says whether another one follows, if not with true, false, 1 or 0", [MoreAt, MoreIs]);
    public static readonly Key More = new("more", KeyKind.PointerOrSection, "the place in a page that says whether another one follows: true, false, 1 or 0; or the place and the value that means yes") { Inside = MoreSection, Example = "/page/more" };
    public static readonly Key TotalHeader = new("total-header", KeyKind.Text, "the response header with the total number of rows; works like total:") { Example = "X-Total-Count" };
    public static readonly Key PagesHeader = new("pages-header", KeyKind.Text, "the response header with the total number of pages; works like pages:") { Example = "X-Page-Count" };
    public static readonly Key EndStatus = new("end-status", KeyKind.Number, "the status that means that the requested page is past the last one") { Least = 204, Most = 499, Otherwise = "every error status is an error", Example = "404" };
    public static readonly Key MostPages = new("most-pages", KeyKind.Number, "the most pages of one listing; a longer listing is considered endless and fails") { Least = 1, Otherwise = "100000", Example = "100000" };
    public static readonly Key MostRows = new("most-rows", KeyKind.Number, "the most rows of one listing; a longer listing is considered endless and fails") { Least = 1, Otherwise = "1000000000", Example = "5000000" };
    public static readonly Key AllowMissing = new("allow-missing", KeyKind.Share, "the share of the rows at total: that may be missing at the end, for listings that change while they are paged") { Otherwise = "none", Example = "1%" };
    public static readonly Key Optional = new("optional", KeyKind.Switch, "whether a listing that fits on one page may omit the next link or cursor") { Otherwise = "false: the pull fails if no page had one and the page hints at another page", Example = "true" };
    public static readonly Key Delta = new("changes", KeyKind.Pointer, "the place in the last page of the link or token that the next run uses to fetch only what has changed") { Example = "/links/changes" };
    public static readonly Key DeltaParameter = new("changes-parameter", KeyKind.Text, "the query parameter that sends the token found at changes:") { Otherwise = "changes: finds a link", Example = "changes_since" };
    public static readonly Key WhenShifted = new("when-shifted", KeyKind.Choice, "what to do if a counted listing shifts while it is paged: report it, or fetch it again from the start") { Choices = ["report", "again"], Otherwise = "report" };
    public static readonly Section PagingSection = new("paging", "how to find the next page and the end of the listing", [.. PagingStyles.All.SelectMany(style => style.Keys), Parameter, SendHeader, BodyAt, Placeholder, PageSize, SizeParameter, Total, TotalHeader, Pages, PagesHeader, More, EndStatus, MostPages, MostRows, AllowMissing, Optional, Delta, DeltaParameter, WhenShifted]);

    // rows
    public static readonly Key RowsAt = new("at", KeyKind.Pointers, "the object or array that one, keys-as, value-as and inside apply to; or a list of arrays of rows") { Otherwise = "the whole answer", Example = "/depots" };
    public static readonly Key One = new("one", KeyKind.Switch, "whether the object at at: is a single row") { Otherwise = "false" };
    public static readonly Key KeysAs = new("keys-as", KeyKind.Text, "for an object whose values are the rows: the field that takes each row's name") { Example = "depot_code" };
    public static readonly Key Inside = new("inside", KeyKind.Pointer, "for an array of batches: the place of the rows in a batch") { Example = "/items" };
    public static readonly Key ValueAs = new("value-as", KeyKind.Text, "for an array of plain values: the field that takes the value; each value becomes a row") { Example = "consignment_id" };
    public static readonly Key PlaceAs = new("place-as", KeyKind.Text, "for several arrays: the field that takes the last name of the row's place") { Otherwise = "rows do not say where they were", Example = "kind" };
    public static readonly Key BatchCarry = new("carry", KeyKind.TextMap, "fields of a batch to copy into each of its rows: names and JSON Pointers into the batch") { Example = "{ day: /date }" };
    public static readonly Key RowsOptional = new("optional", KeyKind.Switch, "whether a place of several, or of carry:, may be missing on every page") { Otherwise = "false: the pull fails", Example = "true" };
    public static readonly Section RowsSection = new("rows", "the rows of an answer, if they are not a plain array", [RowsAt, One, KeysAs, ValueAs, Inside, BatchCarry, PlaceAs, RowsOptional]);

    // per
    public static readonly Key PerName = new("name", KeyKind.Text, "the name of its values in placeholders; for rows of a pull, the pull's name") { Example = "tenant" };
    public static readonly Key PerPull = new("pull", KeyKind.Text, "a pull defined above") { Example = "consignments" };
    public static readonly Key PerBatch = new("batch", KeyKind.Number, "how many rows share a request; placeholders are then lists: separated by commas in a text, repeated in a list of query:, an array in body:") { Least = 1, Most = 10_000, Otherwise = "one", Example = "50" };
    public static readonly Key PerList = new("list", KeyKind.Anything, "texts or groups of keys") { Example = "[north, south]" };
    public static readonly Key PerFile = new("file", KeyKind.Text, "a CSV file with a header, relative to the job file's folder") { Example = "tenants.csv" };
    public static readonly Key PerSql = new("sql", KeyKind.Text, "one SELECT over pulls defined above") { Example = "select distinct depot from consignments" };
    public static readonly Section PerSection = new("per", "the list, file or query that a pull is repeated for", [PerName, PerPull, PerList, PerFile, PerSql, PerBatch]);

    // window
    public static readonly Key WindowFrom = new("from", KeyKind.Text, "the start of the first window: a time with its offset, or a day (UTC)") { Required = true, Example = "\"{since}\"" };
    public static readonly Key WindowTo = new("to", KeyKind.Text, "the end of the last window") { Required = true, Example = "\"{until}\"" };
    public static readonly Key WindowStep = new("step", KeyKind.Duration, "the length of a window") { Required = true, Example = "1d" };
    public static readonly Key AtMostRows = new("at-most", KeyKind.Number, "the most rows that the API returns for one query; a window that reaches it is fetched again in two halves") { Least = 1, Otherwise = "windows are never split", Example = "10000" };
    public static readonly Key WindowForm = new("as", KeyKind.Choice, "the format of {window.from} and {window.to}: times, days, or seconds since 1970") { Choices = [.. Enum.GetNames<Jobs.WindowForm>().Select(form => form.ToLowerInvariant())], Otherwise = "time", Example = "date" };
    public static readonly Key EndLess = new("end-less", KeyKind.Duration, "how much to subtract from {window.to}, for APIs that include rows at the end itself") { Otherwise = "nothing: the end is exclusive", Example = "1s" };
    public static readonly Section WindowSection = new("window", "fetches a listing in windows of time", [WindowFrom, WindowTo, WindowStep, AtMostRows, WindowForm, EndLess]);

    // opens
    public static readonly Key OpensWhen = new("when", KeyKind.TextMap, "the values that a row must have to open a listing, as JSON Pointers and values; * for any value") { Otherwise = "every row opens one", Example = "{ /kind: folder }" };
    public static readonly Key OpensGet = new("get", KeyKind.Path, "the path of that listing; the row's columns are {PULL.column}") { Required = true, Example = "/folders/{folders.id}/children" };
    public static readonly Key Deepest = new("deepest", KeyKind.Number, "the most levels below the first listing, 1 to 1000") { Least = 1, Most = 1_000, Otherwise = "50", Example = "50" };
    public static readonly Section OpensSection = new("opens", "rows that lead to another listing of the same pull, such as a folder in a folder", [OpensWhen, OpensGet, Deepest]);

    // skips
    public static readonly Key SkipStatus = new("status", KeyKind.Number, "the status of the answer") { Least = 200, Most = 599, Example = "403" };
    public static readonly Key SkipAt = new("at", KeyKind.Pointer, "the place in the answer that is: is compared with") { Example = "/code" };
    public static readonly Key SkipIs = new("is", KeyKind.Text, "the value that must be there; * for any value") { Otherwise = "*", Example = "no_licence" };
    public static readonly Key SkipSignIn = new("sign-in", KeyKind.Text, "the error of a refused sign-in (RFC 6749 section 5.2), instead of status:; * for any error") { Example = "unauthorized_client" };
    public static readonly Key SkipBecause = new("because", KeyKind.Text, "the reason, in words that the report's readers understand") { Example = "the carrier has no licence" };
    public static readonly Section SkipSection = new("skip-when", "a refusal that skips one strand and stops nothing else", [SkipStatus, SkipAt, SkipIs, SkipSignIn, SkipBecause]);

    // failures with status 200
    public static readonly Key FailAt = new("at", KeyKind.Pointer, "the place in the answer that is: is compared with") { Required = true, Example = "/errors" };
    public static readonly Key FailIs = new("is", KeyKind.Text, "the value that must be there; * for anything but null, false, and empty values") { Otherwise = "*", Example = "failed" };
    public static readonly Key FailAgain = new("again", KeyKind.Switch, "whether to retry the request before the pull fails") { Otherwise = "false", Example = "true" };
    public static readonly Section FailSection = new("fail-when", "an answer that is a failure despite a successful status", [FailAt, FailIs, FailAgain]);

    // incremental
    public static readonly Key By = new("by", KeyKind.Pointer, "the field whose highest value becomes the mark; the next run sends it as {mark}") { Required = true, Example = "/changed_at" };
    public static readonly Key Overlap = new("overlap", KeyKind.Text, "how far before the mark the next run starts: a duration for times, a number for numbers") { Otherwise = "none", Example = "10m" };
    public static readonly Key FirstMark = new("first", KeyKind.Text, "the mark of the first run") { Otherwise = "{mark} is omitted", Example = "2026-01-01T00:00:00Z" };
    public static readonly Section IncrementalSection = new("incremental", "fetches only what is new since the last good run", [By, Overlap, FirstMark]);

    // deleted-when
    public static readonly Key DeletedAt = new("at", KeyKind.Pointer, "the field that marks a row as deleted") { Required = true, Example = "/state" };
    public static readonly Key DeletedIs = new("is", KeyKind.Text, "the value that must be there; * for anything but null and false") { Otherwise = "*", Example = "removed" };
    public static readonly Section DeletedSection = new("deleted-when", "which rows of later runs mean that a row was deleted", [DeletedAt, DeletedIs]);

    // export
    public static readonly Key PollAt = new("poll-at", KeyKind.Pointer, "the place of the address to poll in the submission's answer") { Otherwise = "the Location header", Example = "/links/status" };
    public static readonly Key Every = new("every", KeyKind.Duration, "the pause between two polls, unless Retry-After asks for another") { Otherwise = "5s", Example = "5s" };
    public static readonly Key ExportState = new("state", KeyKind.Pointer, "the place of the export's state in an answer") { Otherwise = "status 202 means that it is still running, 200 that it is done", Example = "/state" };
    public static readonly Key Done = new("done", KeyKind.Texts, "the states that mean done") { Example = "[ready]" };
    public static readonly Key Failed = new("failed", KeyKind.Texts, "the states that mean failed") { Example = "[failed, cancelled]" };
    public static readonly Key Parts = new("files", KeyKind.Pointer, "the place of the array of files in the last answer") { Otherwise = "the whole answer is the array", Example = "/parts" };
    public static readonly Key PartLink = new("link", KeyKind.Pointer, "the place of a file's address in its entry; with result: rows, the place of the rows' address in the last answer") { Otherwise = "the entry is the address", Example = "/url" };
    public static readonly Key Result = new("result", KeyKind.Choice, "how the export is returned: as files that the last answer lists, or as rows, in the last answer or behind a 303") { Choices = ["files", "rows"], Otherwise = "files", Example = "rows" };
    public static readonly Key PartRows = new("rows", KeyKind.Pointer, "the place of a file's row count in its entry; a file with another count is damaged") { Otherwise = "not checked", Example = "/row_count" };
    public static readonly Key PartBytes = new("bytes", KeyKind.Pointer, "the place of a file's size in bytes in its entry, compressed or not") { Otherwise = "not checked", Example = "/size" };
    public static readonly Key PartDigest = new("sha256", KeyKind.Pointer, "the place of a file's SHA-256 in its entry, in hex or base64, compressed or not") { Otherwise = "not checked", Example = "/sha256" };
    public static readonly Key PartForm = new("form", KeyKind.Choice, "the format of the files, compressed with gzip or not") { Choices = ["lines", "csv"], Otherwise = "lines" };
    public static readonly Key FindGet = new("get", KeyKind.Path, "the path of the API's list of exports; only its first page is read") { Required = true, Example = "/exports{?submission}" };
    public static readonly Key FindRows = new("rows", KeyKind.Pointer, "the place of the array of exports in the answer") { Otherwise = "the whole answer is the array", Example = "/items" };
    public static readonly Key FindWhere = new("where", KeyKind.TextMap, "the values that identify the export, as JSON Pointers and values; {submission} is the id that the request sent") { Otherwise = "get: must narrow the list by itself", Example = "{ /reference: \"{submission}\" }" };
    public static readonly Key FindLink = new("link", KeyKind.Pointer, "the place of the address to poll in a listed export") { Required = true, Example = "/links/self" };
    public static readonly Section FindSection = new("find", "how to find an export whose submission got no answer; the submission sends the id {submission}", [FindGet, FindRows, FindWhere, FindLink]);
    public static readonly Key Find = new("find", KeyKind.Section, "finds an export whose submission got no answer, instead of submitting it again; {submission} is the submission's unique id") { Inside = FindSection };
    public static readonly Section ExportSection = new("export", "submits an export, waits for it and downloads its files", [Find, PollAt, Every, ExportState, Done, Failed, Result, Parts, PartLink, PartForm, PartRows, PartBytes, PartDigest]);

    // the pull
    public static readonly Key Api = new("api", KeyKind.Text, "the API to call") { Otherwise = "the job's only API" };
    public static readonly Key Identity = new("identity", KeyKind.Text, "the identity that its requests sign in as") { Otherwise = "the API's", Example = "tenant-app" };
    public static readonly Key Get = new("get", KeyKind.Path, "the path, an RFC 6570 URI template appended to the API's base") { Example = "/consignments{?since}" };
    public static readonly Key Post = new("post", KeyKind.Path, "the path of a POST, instead of get:") { Example = "/consignments/search" };
    public static readonly Key Link = new("link", KeyKind.Text, "an address from an earlier row, instead of get:") { Example = "\"{files.links.content}\"" };
    public static readonly Key Query = new("query", KeyKind.TextsMap, "query parameters; a list repeats the parameter, a parameter without a value is omitted, and a value can be a secret source") { Example = "{ status: [late, held] }" };
    public static readonly Key Headers = new("headers", KeyKind.TextsMap, "additional headers; a list repeats the header, and a value can be a secret source") { Example = "{ Prefer: return=minimal }" };
    public static readonly Key Body = new("body", KeyKind.Anything, "the body of a POST, sent as JSON with the types written here; a text can be a secret source") { Example = "{ filter: { since: \"{since}\" } }" };
    public static readonly Key BodyAs = new("body-as", KeyKind.Choice, "the format of the body") { Choices = ["json", "form"], Otherwise = "json" };
    public static readonly Key Accept = new("accept", KeyKind.Text, "the Accept header") { Otherwise = "application/json", Example = "application/vnd.brackwater+json" };
    public static readonly Key Per = new("per", KeyKind.TextOrSection, "repeats the pull once for each row of an earlier pull (give its name), or of a list, file or query") { Inside = PerSection, Example = "depots" };
    public static readonly Key Carry = new("carry", KeyKind.TextMap, "columns that each row copies from the row its strand was made from: NAME: POINTER") { Example = "{ depot: /name }" };
    public static readonly Key Rows = new("rows", KeyKind.PointersOrSection, "the place of the array of rows in a page; empty if the page itself is the array, a list if there are several arrays") { Inside = RowsSection, Example = "/items" };
    public static readonly Key Drop = new("omit", KeyKind.Pointers, "fields to remove from each row before it is written to disk") { Example = "[/driver/phone]" };
    public static readonly Key Paging = new("paging", KeyKind.Section, "how to find the next page") { Otherwise = "the listing has one page", Inside = PagingSection };
    public static readonly Key Export = new("export", KeyKind.Section, "submits an export, waits for it, and reads the rows from its files") { Inside = ExportSection };
    public static readonly Key Download = new("download", KeyKind.Text, "saves the answer as a file, under this name below out:") { Example = "\"files/{files.name}\"" };
    public static readonly Key Window = new("window", KeyKind.Section, "fetches the listing one window of time after another, with {window.from} and {window.to}") { Inside = WindowSection };
    public static readonly Key Opens = new("opens", KeyKind.Section, "which rows lead to another listing of this pull") { Inside = OpensSection };
    public static readonly Key KeyOf = new("key", KeyKind.Pointers, "the fields that identify a row; reports see the newest row of each key over all runs, and shifts in the listing are noticed") { Example = "[/id]" };
    public static readonly Key Incremental = new("incremental", KeyKind.Section, "fetches only what is new since the last good run") { Inside = IncrementalSection };
    public static readonly Key DeletedWhen = new("deleted-when", KeyKind.Section, "which rows mean that a row was deleted") { Inside = DeletedSection };
    public static readonly Key SkipWhen = new("skip-when", KeyKind.SectionList, "refusals that skip one strand, which is then reported") { Inside = SkipSection, Example = "[{ status: 403, at: /code, is: no_licence }]" };
    public static readonly Key FailWhen = new("fail-when", KeyKind.SectionList, "answers that are failures despite a successful status") { Inside = FailSection, Example = "[{ at: /errors }]" };
    public static readonly Key AllowEmpty = new("allow-empty", KeyKind.Switch, "whether to write reports if the pull brought no rows though the last good run had some, or if all its strands were skipped") { Otherwise = "false: the last good files stay, and the run ends with code 8", Example = "true" };
    public static readonly Key AllowSkips = new("allow-skips", KeyKind.Allowance, "how many strands may be skipped, as a count or a percentage; more end the run with code 6") { Otherwise = "no limit", Example = "5%" };
    public static readonly Key Parallel = new("parallel", KeyKind.Number, "how many strands to run at a time, or pages of one strand if they can be counted, 1 to 100") { Least = 1, Most = 100, Otherwise = "8", Example = "8" };
    public static readonly Key Columns = new("columns", KeyKind.Columns, "the table's columns: NAME: TYPE, or NAME: { at: POINTER, type: TYPE }") { Otherwise = "derived from the rows; objects inside rows become parent_child", Example = "{ reference: text, due_at: time }" };
    public static readonly Key RequireOf = new("require", KeyKind.Choices, "what must be true of the table, or no report is written and the run ends with code 8. same-columns: its columns and types are those of the last good run. complete: a count or an explicit end proves that nothing is missing") { Choices = ["same-columns", "complete"], Otherwise = "changed columns and unproven ends are only reported", Example = "same-columns" };
    public static readonly Key OddText = new("odd-text", KeyKind.Choice, "what to do with invalid text (half of a surrogate pair): end the run with code 8, or keep it as a JSON escape and report it") { Choices = ["escape", "refuse"], Otherwise = "escape" };
    public static readonly Section Section = new("pull", "fills one table from one listing, or from one listing per strand", [Api, Identity, Get, Post, Link, Query, Headers, Body, BodyAs, Accept, Per, Carry, Rows, Drop, Paging, Export, Download, Window, Opens, KeyOf, Incremental, DeletedWhen, SkipWhen, FailWhen, AllowSkips, AllowEmpty, Parallel, Columns, OddText, RequireOf, PayloadKeys.Body, PayloadKeys.Signatures, PayloadKeys.Validate, PayloadKeys.ValidateBody]);
}
