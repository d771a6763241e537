namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of a pull.</summary>
public static class PullKeys
{
    // paging: where the next page is asked for, and where the listing ends; what tells it is said by each style
    public static readonly Key Parameter = new("parameter", KeyKind.Texts, "the query parameter that takes cursor, page number, offset or keyset value; one for each where there are several") { Example = "cursor" };
    public static readonly Key SendHeader = new("header", KeyKind.Texts, "the request header that takes it") { Example = "X-Cursor" };
    public static readonly Key BodyAt = new("body-at", KeyKind.Pointers, "the place in body: that takes it, a number as a number and an object as an object") { Example = "/page/after" };
    public static readonly Key Placeholder = new("placeholder", KeyKind.Texts, "the placeholder in get: or post: that takes it, for a page number in the path") { Example = "page" };
    public static readonly Key PageSize = new("page-size", KeyKind.Number, "rows in a full page; a page with fewer is the last one. Servers that give fewer are noticed: full is what came") { Least = 1, Most = 1_000_000, Example = "200" };
    public static readonly Key SizeParameter = new("size-parameter", KeyKind.Text, "the query parameter that asks for page-size rows") { Example = "limit" };
    public static readonly Key Total = new("total", KeyKind.Pointer, "where a page tells how many rows there are in all; ends a counted listing, lets its pages be fetched side by side, and gives the estimate of the time left") { Example = "/page/total" };
    public static readonly Key Pages = new("pages", KeyKind.Pointer, "where a page tells how many pages there are; ends a listing by page numbers and lets its pages be fetched side by side") { Example = "/page/count" };
    public static readonly Key MoreAt = new("at", KeyKind.Pointer, "where a page tells whether another one follows") { Required = true, Example = "/page/more" };
    public static readonly Key MoreIs = new("is", KeyKind.Text, "the value there that means that one does; any other means that none does") { Required = true, Example = "\"Y\"" };
    public static readonly Section MoreSection = new("more", "where a page tells whether another one follows, in words of its own", [MoreAt, MoreIs]);
    public static readonly Key More = new("more", KeyKind.PointerOrSection, "where a page tells by true, false, 1 or 0 whether another one follows; or with the value that means so") { Inside = MoreSection, Example = "/page/more" };
    public static readonly Key TotalHeader = new("total-header", KeyKind.Text, "the response header that tells how many rows there are in all; works as total: does") { Example = "X-Total-Count" };
    public static readonly Key PagesHeader = new("pages-header", KeyKind.Text, "the response header that tells how many pages there are; works as pages: does") { Example = "X-Page-Count" };
    public static readonly Key EndStatus = new("end-status", KeyKind.Number, "the status that an API answers with behind its last page") { Least = 204, Most = 499, Otherwise = "an error is an error", Example = "404" };
    public static readonly Key MostPages = new("most-pages", KeyKind.Number, "most pages of one listing; one that has more is taken for endless") { Least = 1, Otherwise = "100000", Example = "100000" };
    public static readonly Key MostRows = new("most-rows", KeyKind.Number, "most rows of one listing; one that has more is taken for endless") { Least = 1, Otherwise = "1000000000", Example = "5000000" };
    public static readonly Key AllowMissing = new("allow-missing", KeyKind.Share, "the share of the rows at total: that may be missing at the end, for listings that move while they are paged") { Otherwise = "none may", Example = "1%" };
    public static readonly Key Optional = new("optional", KeyKind.Switch, "whether a listing that fits on one page may leave out the place of the next link or cursor") { Otherwise = "false: the pull is refused when no page had it and the page hints at another one", Example = "true" };
    public static readonly Key Delta = new("changes", KeyKind.Pointer, "where the last page has the link or token with which the next run asks for what has changed alone") { Example = "/links/changes" };
    public static readonly Key DeltaParameter = new("changes-parameter", KeyKind.Text, "the query parameter that takes what stands at changes") { Otherwise = "what stands at changes is a link", Example = "changes_since" };
    public static readonly Key WhenShifted = new("when-shifted", KeyKind.Choice, "what to do when a counted listing shifts while it is paged: tell it, or take it again from the start") { Choices = ["tell", "again"], Otherwise = "tell" };
    public static readonly Section PagingSection = new("paging", "how the next page is found, and where the listing ends", [.. PagingStyles.All.SelectMany(style => style.Keys), Parameter, SendHeader, BodyAt, Placeholder, PageSize, SizeParameter, Total, TotalHeader, Pages, PagesHeader, More, EndStatus, MostPages, MostRows, AllowMissing, Optional, Delta, DeltaParameter, WhenShifted]);

    // rows
    public static readonly Key RowsAt = new("at", KeyKind.Pointers, "the object or array that inside, keys-as or one apply to; or several arrays of rows") { Otherwise = "the whole answer", Example = "/depots" };
    public static readonly Key One = new("one", KeyKind.Switch, "what stands there is one row") { Otherwise = "false" };
    public static readonly Key KeysAs = new("keys-as", KeyKind.Text, "it is an object whose values are the rows; this field of each row takes the name") { Example = "depot_code" };
    public static readonly Key Inside = new("inside", KeyKind.Pointer, "it is an array of batches; where a batch has its array of rows") { Example = "/items" };
    public static readonly Key ValueAs = new("value-as", KeyKind.Text, "it is an array of plain values; each becomes a row with this field") { Example = "consignment_id" };
    public static readonly Key PlaceAs = new("place-as", KeyKind.Text, "of several arrays: this field of each row takes the last name of the place that the row was at") { Otherwise = "rows do not tell", Example = "kind" };
    public static readonly Key BatchCarry = new("carry", KeyKind.TextMap, "fields of a batch that each of its rows takes along: names and JSON Pointers into the batch") { Example = "{ day: /date }" };
    public static readonly Key RowsOptional = new("optional", KeyKind.Switch, "whether a place of several, or of carry, may be on no page at all") { Otherwise = "false: the pull is refused", Example = "true" };
    public static readonly Section RowsSection = new("rows", "where an answer has its rows, when they are not a plain array", [RowsAt, One, KeysAs, ValueAs, Inside, BatchCarry, PlaceAs, RowsOptional]);

    // per
    public static readonly Key PerName = new("name", KeyKind.Text, "what its values are called in placeholders; for the rows of a pull the pull's name does") { Example = "tenant" };
    public static readonly Key PerPull = new("pull", KeyKind.Text, "a pull that stands above") { Example = "consignments" };
    public static readonly Key PerBatch = new("batch", KeyKind.Number, "so many rows a request: placeholders are lists then, parted by commas in a text, repeated in a list of query:, an array in body:") { Least = 1, Most = 10_000, Otherwise = "one", Example = "50" };
    public static readonly Key PerList = new("list", KeyKind.Anything, "texts or groups of keys") { Example = "[north, south]" };
    public static readonly Key PerFile = new("file", KeyKind.Text, "a CSV file with a header, from the job file's folder") { Example = "tenants.csv" };
    public static readonly Key PerSql = new("sql", KeyKind.Text, "one SELECT over pulls that stand above") { Example = "select distinct depot from consignments" };
    public static readonly Section PerSection = new("per", "what a pull is repeated for, when it is not an earlier pull", [PerName, PerPull, PerList, PerFile, PerSql, PerBatch]);

    // window
    public static readonly Key WindowFrom = new("from", KeyKind.Text, "where the first window begins: a time with its offset, or a day (of UTC)") { Required = true, Example = "\"{since}\"" };
    public static readonly Key WindowTo = new("to", KeyKind.Text, "where the last window ends") { Required = true, Example = "\"{until}\"" };
    public static readonly Key WindowStep = new("step", KeyKind.Duration, "the length of a window") { Required = true, Example = "1d" };
    public static readonly Key AtMostRows = new("at-most", KeyKind.Number, "the most rows that the API gives for one query; a window that reaches it is asked for again in two halves") { Least = 1, Otherwise = "windows stay as they are", Example = "10000" };
    public static readonly Key WindowForm = new("as", KeyKind.Choice, "how {window.from} and {window.to} are written: times, days, or seconds since 1970") { Choices = [.. Enum.GetNames<Jobs.WindowForm>().Select(form => form.ToLowerInvariant())], Otherwise = "time", Example = "date" };
    public static readonly Key EndLess = new("end-less", KeyKind.Duration, "taken off {window.to}, where the API counts rows at the end itself as inside") { Otherwise = "nothing: the end is not inside", Example = "1s" };
    public static readonly Section WindowSection = new("window", "the listing is asked for in windows of time", [WindowFrom, WindowTo, WindowStep, AtMostRows, WindowForm, EndLess]);

    // opens
    public static readonly Key OpensWhen = new("when", KeyKind.TextMap, "what a row must have to open a listing: JSON Pointers and their values, * for anything") { Otherwise = "every row opens one", Example = "{ /kind: folder }" };
    public static readonly Key OpensGet = new("get", KeyKind.Path, "the path of that listing, with the row's columns as {PULL.column}") { Required = true, Example = "/folders/{folders.id}/children" };
    public static readonly Key Deepest = new("deepest", KeyKind.Number, "most levels below the first listing, 1 to 1000") { Least = 1, Most = 1_000, Otherwise = "50", Example = "50" };
    public static readonly Section OpensSection = new("opens", "rows that open another listing of the same pull, such as a folder in a folder", [OpensWhen, OpensGet, Deepest]);

    // skips
    public static readonly Key SkipStatus = new("status", KeyKind.Number, "the status of the answer") { Least = 200, Most = 599, Example = "403" };
    public static readonly Key SkipAt = new("at", KeyKind.Pointer, "where the answer has the value of is") { Example = "/code" };
    public static readonly Key SkipIs = new("is", KeyKind.Text, "the value that must stand there; * for anything") { Otherwise = "*", Example = "no_licence" };
    public static readonly Key SkipSignIn = new("sign-in", KeyKind.Text, "the error of a refused sign-in (RFC 6749 section 5.2), instead of status; * for any") { Example = "unauthorized_client" };
    public static readonly Key SkipBecause = new("because", KeyKind.Text, "the reason, in words that readers of the report understand") { Example = "the carrier has no licence" };
    public static readonly Section SkipSection = new("skip-when", "a refusal that skips one strand and stops nothing else", [SkipStatus, SkipAt, SkipIs, SkipSignIn, SkipBecause]);

    // failures with status 200
    public static readonly Key FailAt = new("at", KeyKind.Pointer, "where the answer has the value of is") { Required = true, Example = "/errors" };
    public static readonly Key FailIs = new("is", KeyKind.Text, "the value that must stand there; * for anything but null, false, and what is empty") { Otherwise = "*", Example = "failed" };
    public static readonly Key FailAgain = new("again", KeyKind.Switch, "whether the request is tried again before the pull fails") { Otherwise = "false", Example = "true" };
    public static readonly Section FailSection = new("fail-when", "an answer with a status of success that is a failure nevertheless", [FailAt, FailIs, FailAgain]);

    // incremental
    public static readonly Key By = new("by", KeyKind.Pointer, "where a row has the value whose highest one is the mark; {mark} takes it in the next run") { Required = true, Example = "/changed_at" };
    public static readonly Key Overlap = new("overlap", KeyKind.Text, "how far before the mark the next run begins: a duration for times, a number for numbers") { Otherwise = "none", Example = "10m" };
    public static readonly Key FirstMark = new("first", KeyKind.Text, "the mark of the first run") { Otherwise = "{mark} is left out", Example = "2026-01-01T00:00:00Z" };
    public static readonly Section IncrementalSection = new("incremental", "asks for what is new since the last good run", [By, Overlap, FirstMark]);

    // deleted-when
    public static readonly Key DeletedAt = new("at", KeyKind.Pointer, "where a row says that it is gone") { Required = true, Example = "/state" };
    public static readonly Key DeletedIs = new("is", KeyKind.Text, "the value that must stand there; * for anything but null and false") { Otherwise = "*", Example = "removed" };
    public static readonly Section DeletedSection = new("deleted-when", "which rows of later runs say that a row is gone", [DeletedAt, DeletedIs]);

    // export
    public static readonly Key PollAt = new("poll-at", KeyKind.Pointer, "where the answer to the submission has the address to ask") { Otherwise = "the Location header", Example = "/links/status" };
    public static readonly Key Every = new("every", KeyKind.Duration, "the pause between two questions, where Retry-After asks for none") { Otherwise = "5s", Example = "5s" };
    public static readonly Key ExportState = new("state", KeyKind.Pointer, "where an answer has the state of the export") { Otherwise = "status 202 goes on, 200 is done", Example = "/state" };
    public static readonly Key Done = new("done", KeyKind.Texts, "the states that mean done") { Example = "[ready]" };
    public static readonly Key Failed = new("failed", KeyKind.Texts, "the states that mean failed") { Example = "[failed, cancelled]" };
    public static readonly Key Parts = new("files", KeyKind.Pointer, "where the last answer has the array of parts") { Otherwise = "the whole answer is that array", Example = "/parts" };
    public static readonly Key PartLink = new("link", KeyKind.Pointer, "where a part has its address; with result: rows, where the last answer has the address of the rows") { Otherwise = "the part is the address", Example = "/url" };
    public static readonly Key Result = new("result", KeyKind.Choice, "what the last answer leads to: files that it lists, or the rows themselves, in the answer or where a 303 leads") { Choices = ["files", "rows"], Otherwise = "files", Example = "rows" };
    public static readonly Key PartRows = new("rows", KeyKind.Pointer, "where a part tells how many rows it has; another number is a damaged part") { Otherwise = "not checked", Example = "/row_count" };
    public static readonly Key PartBytes = new("bytes", KeyKind.Pointer, "where a part tells how many bytes it has, compressed or not") { Otherwise = "not checked", Example = "/size" };
    public static readonly Key PartDigest = new("sha256", KeyKind.Pointer, "where a part tells its SHA-256, in hex or base64, compressed or not") { Otherwise = "not checked", Example = "/sha256" };
    public static readonly Key PartForm = new("form", KeyKind.Choice, "what the parts hold, compressed by gzip or not") { Choices = ["lines", "csv"], Otherwise = "lines" };
    public static readonly Key FindGet = new("get", KeyKind.Path, "the path of the API's list of exports; its first page is looked at") { Required = true, Example = "/exports{?submission}" };
    public static readonly Key FindRows = new("rows", KeyKind.Pointer, "where the answer has the array of exports") { Otherwise = "the whole answer is that array", Example = "/items" };
    public static readonly Key FindWhere = new("where", KeyKind.TextMap, "what the wanted export has: JSON Pointers and their values; {submission} is the id that the request sent") { Otherwise = "get: narrows the list itself", Example = "{ /reference: \"{submission}\" }" };
    public static readonly Key FindLink = new("link", KeyKind.Pointer, "where a listed export has the address to ask") { Required = true, Example = "/links/self" };
    public static readonly Section FindSection = new("find", "how an export is found again whose submission got no answer; the request sends the id {submission}", [FindGet, FindRows, FindWhere, FindLink]);
    public static readonly Key Find = new("find", KeyKind.Section, "looks for an export whose submission got no answer, instead of submitting it again; {submission} is an id for each submission") { Inside = FindSection };
    public static readonly Section ExportSection = new("export", "submits an export, waits for it and downloads its parts", [Find, PollAt, Every, ExportState, Done, Failed, Result, Parts, PartLink, PartForm, PartRows, PartBytes, PartDigest]);

    // the pull
    public static readonly Key Api = new("api", KeyKind.Text, "the API to ask") { Otherwise = "the only API of the job" };
    public static readonly Key Identity = new("identity", KeyKind.Text, "the identity of its requests") { Otherwise = "the API's", Example = "tenant-app" };
    public static readonly Key Get = new("get", KeyKind.Path, "the path, an RFC 6570 URI template appended to the API's base") { Example = "/consignments{?since}" };
    public static readonly Key Post = new("post", KeyKind.Path, "the path of a POST, instead of get") { Example = "/consignments/search" };
    public static readonly Key Link = new("link", KeyKind.Text, "an address from an earlier row, instead of get") { Example = "\"{files.links.content}\"" };
    public static readonly Key Query = new("query", KeyKind.TextsMap, "query parameters; a list sends one several times, what is not known is left out, and a value may be a secret source") { Example = "{ status: [late, held] }" };
    public static readonly Key Headers = new("headers", KeyKind.TextsMap, "further headers; a list sends one several times, and a value may be a secret source") { Example = "{ Prefer: return=minimal }" };
    public static readonly Key Body = new("body", KeyKind.Anything, "the body of a POST, sent as JSON with the types it has here; a text may be a secret source") { Example = "{ filter: { since: \"{since}\" } }" };
    public static readonly Key BodyAs = new("body-as", KeyKind.Choice, "how the body is sent") { Choices = ["json", "form"], Otherwise = "json" };
    public static readonly Key Accept = new("accept", KeyKind.Text, "the media types that are asked for") { Otherwise = "application/json", Example = "application/vnd.brackwater+json" };
    public static readonly Key Per = new("per", KeyKind.TextOrSection, "repeats the pull: the name of a pull above, for each of its rows, or a list, file or query") { Inside = PerSection, Example = "depots" };
    public static readonly Key Carry = new("carry", KeyKind.TextMap, "columns that each row takes along from what the pull is repeated for: NAME: POINTER") { Example = "{ depot: /name }" };
    public static readonly Key Rows = new("rows", KeyKind.PointersOrSection, "where a page has the array of its rows; empty for the page itself, and a list where it has several") { Inside = RowsSection, Example = "/items" };
    public static readonly Key Drop = new("omit", KeyKind.Pointers, "places of a row that are removed before it touches the disk") { Example = "[/driver/phone]" };
    public static readonly Key Paging = new("paging", KeyKind.Section, "how the next page is found") { Otherwise = "the listing has one page", Inside = PagingSection };
    public static readonly Key Export = new("export", KeyKind.Section, "the request submits an export whose parts are the rows") { Inside = ExportSection };
    public static readonly Key Download = new("download", KeyKind.Text, "the answer is a file; where it is kept, below out:") { Example = "\"files/{files.name}\"" };
    public static readonly Key Window = new("window", KeyKind.Section, "asks for one stretch of time after another, at {window.from} and {window.to}") { Inside = WindowSection };
    public static readonly Key Opens = new("opens", KeyKind.Section, "rows that open another listing of this pull") { Inside = OpensSection };
    public static readonly Key KeyOf = new("key", KeyKind.Pointers, "the places that make a row's identity: reports see the newest of a key over all runs, and a listing that shifts is noticed") { Example = "[/id]" };
    public static readonly Key Incremental = new("incremental", KeyKind.Section, "asks for what is new since the last good run") { Inside = IncrementalSection };
    public static readonly Key DeletedWhen = new("deleted-when", KeyKind.Section, "which rows say that a row is gone") { Inside = DeletedSection };
    public static readonly Key SkipWhen = new("skip-when", KeyKind.SectionList, "refusals that pass over one strand: it is recorded and reported") { Inside = SkipSection, Example = "[{ status: 403, at: /code, is: no_licence }]" };
    public static readonly Key FailWhen = new("fail-when", KeyKind.SectionList, "answers with a status of success that are failures nevertheless") { Inside = FailSection, Example = "[{ at: /errors }]" };
    public static readonly Key AllowEmpty = new("allow-empty", KeyKind.Switch, "whether reports are written when the pull brought nothing though the last good run had rows, or when all its strands were skipped") { Otherwise = "false: the last good files stay, and the run ends with code 8", Example = "true" };
    public static readonly Key AllowSkips = new("allow-skips", KeyKind.Allowance, "how many strands may be skipped before the run ends with code 6: a count or a percentage") { Otherwise = "any number", Example = "5%" };
    public static readonly Key Parallel = new("parallel", KeyKind.Number, "strands at a time, or pages of one strand where they can be counted, 1 to 100") { Least = 1, Most = 100, Otherwise = "8", Example = "8" };
    public static readonly Key Columns = new("columns", KeyKind.Columns, "the columns of the pull's table: NAME: TYPE, or NAME: { at: POINTER, type: TYPE }") { Otherwise = "found from the rows; objects inside rows become parent_child", Example = "{ reference: text, due_at: time }" };
    public static readonly Key RequireOf = new("require", KeyKind.Choices, "what has to hold of the table: same-columns, that its columns and their types are those of the last good run; complete, that a count or an explicit end proves it to be whole; otherwise reports are not written, and the run ends with code 8") { Choices = ["same-columns", "complete"], Otherwise = "a change of columns, and what is not proven, is told", Example = "same-columns" };
    public static readonly Key OddText = new("odd-text", KeyKind.Choice, "what becomes of a text that is not text, with half of a surrogate pair: it is refused (the run ends with code 8), or stands as its JSON escape and is told") { Choices = ["escape", "refuse"], Otherwise = "escape" };
    public static readonly Section Section = new("pull", "fills one table by paging through one listing, or through one listing per repetition", [Api, Identity, Get, Post, Link, Query, Headers, Body, BodyAs, Accept, Per, Carry, Rows, Drop, Paging, Export, Download, Window, Opens, KeyOf, Incremental, DeletedWhen, SkipWhen, FailWhen, AllowSkips, AllowEmpty, Parallel, Columns, OddText, RequireOf, PayloadKeys.Body, PayloadKeys.Signatures, PayloadKeys.Validate, PayloadKeys.ValidateBody]);
}
