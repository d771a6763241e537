namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of a pull itself.</summary>
public static class PullKeys
{
    public static readonly Key Api = new("api", KeyKind.Text, "the API to call") { Otherwise = "the job's only API" };
    public static readonly Key Identity = new("identity", KeyKind.Text, "the identity that its requests sign in as")
    {
        Otherwise = "the API's",
        Example = "tenant-app",
    };
    public static readonly Key Get = new("get", KeyKind.Path, "the path, an RFC 6570 URI template appended to the API's base")
    {
        Example = "/consignments{?since}",
    };
    public static readonly Key Post = new("post", KeyKind.Path, "the path of a POST, instead of get:") { Example = "/consignments/search" };
    public static readonly Key Link = new("link", KeyKind.Text, "an address from an earlier row, instead of get:")
    {
        Example = "\"{files.links.content}\"",
    };
    public static readonly Key Query = new(
        "query",
        KeyKind.TextsMap,
        "query parameters; a list repeats the parameter, a parameter without a value is omitted, and a value can be a secret source")
    {
        Example = "{ status: [late, held] }",
    };
    public static readonly Key Headers = new(
        "headers",
        KeyKind.TextsMap,
        "additional headers; a list repeats the header, and a value can be a secret source")
    { Example = "{ Prefer: return=minimal }" };
    public static readonly Key Body = new(
        "body",
        KeyKind.Anything,
        "the body of a POST, sent as JSON with the types written here; a text can be a secret source")
    {
        Example = "{ filter: { since: \"{since}\" } }",
    };
    public static readonly Key BodyAs = new("body-as", KeyKind.Choice, "the format of the body")
    {
        Choices = ["json", "form"],
        Otherwise = "json",
    };
    public static readonly Key Accept = new("accept", KeyKind.Text, "the Accept header")
    {
        Otherwise = "application/json",
        Example = "application/vnd.brackwater+json",
    };
    public static readonly Key Per = new(
        "per",
        KeyKind.TextOrSection,
        "repeats the pull once for each row of an earlier pull (give its name), or of a list, file or query")
    {
        Inside = PerKeys.PerSection,
        Example = "depots",
    };
    public static readonly Key Carry = new(
        "carry",
        KeyKind.TextMap,
        "columns that each row copies from the row its strand was made from: NAME: POINTER")
    { Example = "{ depot: /name }" };
    public static readonly Key Rows = new(
        "rows",
        KeyKind.PointersOrSection,
        "the place of the array of rows in a page; empty if the page itself is the array, a list if there are several arrays")
    {
        Inside = RowsKeys.RowsSection,
        Example = "/items",
    };
    public static readonly Key Drop = new("omit", KeyKind.Pointers, "fields to remove from each row before it is written to disk")
    {
        Example = "[/driver/phone]",
    };
    public static readonly Key Paging = new("paging", KeyKind.Section, "how to find the next page")
    {
        Otherwise = "the listing has one page",
        Inside = PagingKeys.PagingSection,
    };
    public static readonly Key Export = new(
        "export",
        KeyKind.Section,
        "submits an export, waits for it, and reads the rows from its files")
    { Inside = ExportKeys.ExportSection };
    public static readonly Key Download = new("download", KeyKind.Text, "saves the answer as a file, under this name below out:")
    {
        Example = "\"files/{files.name}\"",
    };
    public static readonly Key Window = new(
        "window",
        KeyKind.Section,
        "fetches the listing one window of time after another, with {window.from} and {window.to}")
    { Inside = PerKeys.WindowSection };
    public static readonly Key Opens = new("opens", KeyKind.Section, "which rows lead to another listing of this pull")
    {
        Inside = StrandKeys.OpensSection,
    };
    public static readonly Key KeyOf = new(
        "key",
        KeyKind.Pointers,
        "the fields that identify a row; reports see the newest row of each key over all runs, and shifts in the listing are noticed")
    {
        Example = "[/id]",
    };
    public static readonly Key Incremental = new("incremental", KeyKind.Section, "fetches only what is new since the last good run")
    {
        Inside = IncrementalKeys.IncrementalSection,
    };
    public static readonly Key DeletedWhen = new("deleted-when", KeyKind.Section, "which rows mean that a row was deleted")
    {
        Inside = IncrementalKeys.DeletedSection,
    };
    public static readonly Key SkipWhen = new("skip-when", KeyKind.SectionList, "refusals that skip one strand, which is then reported")
    {
        Inside = StrandKeys.SkipSection,
        Example = "[{ status: 403, at: /code, is: no_licence }]",
    };
    public static readonly Key FailWhen = new("fail-when", KeyKind.SectionList, "answers that are failures despite a successful status")
    {
        Inside = StrandKeys.FailSection,
        Example = "[{ at: /errors }]",
    };
    public static readonly Key AllowEmpty = new(
        "allow-empty",
        KeyKind.Switch,
        "whether to write reports if the pull brought no rows though the last good run had some, or if all its strands were skipped")
    {
        Otherwise = "false: the last good files stay, and the run ends with code 8",
        Example = "true",
    };
    public static readonly Key AllowSkips = new(
        "allow-skips",
        KeyKind.Allowance,
        "how many strands may be skipped, as a count or a percentage; more end the run with code 6")
    {
        Otherwise = "no limit",
        Example = "5%",
    };
    public static readonly Key Parallel = new(
        "parallel",
        KeyKind.Number,
        "how many strands to run at a time, or pages of one strand if they can be counted, 1 to 100")
    {
        Least = 1,
        Most = 100,
        Otherwise = "8",
        Example = "8",
    };
    public static readonly Key Columns = new(
        "columns",
        KeyKind.Columns,
        "the table's columns: NAME: TYPE, or NAME: { at: POINTER, type: TYPE }")
    {
        Otherwise = "derived from the rows; objects inside rows become parent_child",
        Example = "{ reference: text, due_at: time }",
    };
    public static readonly Key RequireOf = new(
        "require",
        KeyKind.Choices,
        "what must be true of the table, or no report is written and the run ends with code 8. same-columns: its columns and types are those of the last good run. complete: a count or an explicit end proves that nothing is missing")
    { Choices = ["same-columns", "complete"], Otherwise = "changed columns and unproven ends are only reported", Example = "same-columns" };
    public static readonly Key OddText = new(
        "odd-text",
        KeyKind.Choice,
        "what to do with invalid text (half of a surrogate pair): end the run with code 8, or keep it as a JSON escape and report it")
    {
        Choices = ["escape", "refuse"],
        Otherwise = "escape",
    };
    public static readonly Section Section = new("pull", "fills one table from one listing, or from one listing per strand",
    [
        Api,
        Identity,
        Get,
        Post,
        Link,
        Query,
        Headers,
        Body,
        BodyAs,
        Accept,
        Per,
        Carry,
        Rows,
        Drop,
        Paging,
        Export,
        Download,
        Window,
        Opens,
        KeyOf,
        Incremental,
        DeletedWhen,
        SkipWhen,
        FailWhen,
        AllowSkips,
        AllowEmpty,
        Parallel,
        Columns,
        OddText,
        RequireOf,
        EncryptionKeys.Body,
        SignatureKeys.Signatures,
        PayloadKeys.Validate,
        PayloadKeys.ValidateBody,
    ]);
}
