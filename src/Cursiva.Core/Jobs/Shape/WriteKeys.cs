namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of write-backs.</summary>
public static class WriteKeys
{
    private const string Path = ", an RFC 6570 URI template appended to the API's base";

    // a step
    public static readonly Key When = new(
        "when",
        KeyKind.Text,
        "take the step only if the lookup before it found something (found) or did not (not-found); with several lookups, add the step's name")
    {
        Otherwise = "always",
        Example = "not-found",
    };
    public static readonly Key Get = new("get", KeyKind.Path, "a lookup: the path" + Path) { Example = "/documents{?title}" };
    public static readonly Key Post = new("post", KeyKind.Path, "the path of a POST" + Path) { Example = "/documents" };
    public static readonly Key Put = new("put", KeyKind.Path, "the path of a PUT" + Path) { Example = "/documents/{row.id}" };
    public static readonly Key Patch = new("patch", KeyKind.Path, "the path of a PATCH" + Path) { Example = "/documents/{find.id}" };
    public static readonly Key Delete = new("delete", KeyKind.Path, "the path of a DELETE" + Path) { Example = "/documents/{find.id}" };
    public static readonly Key Body = new(
        "body",
        KeyKind.Anything,
        "the body, sent as JSON with the types written here; \"{row.id}\" alone in its quotes keeps the value's type, {html:row.name} and {json:row.name} escape a value for HTML or JSON inside a text; a text can be a secret source")
    {
        Example = "{ title: \"{row.name}\", board: \"{board.id}\" }",
    };
    public static readonly Key Text = new("text", KeyKind.Text, "a body that is not JSON, instead of body:")
    {
        Example = "<h1>{html:row.name}</h1>",
    };
    public static readonly Key Type = new("type", KeyKind.Text, "the body's media type")
    {
        Otherwise = "application/json, or text/plain; charset=utf-8 with text:",
        Example = "text/html; charset=utf-8",
    };
    public static readonly Key Rows = new(
        "rows",
        KeyKind.Pointer,
        "the place of the array of results in a lookup's answer; without it, the answer itself is the result, and 404 means not found")
    {
        Example = "/items",
    };
    public static readonly Key Where = new(
        "where", KeyKind.TextMap, "the values that identify the wanted result, as JSON Pointers and values, compared exactly")
    {
        Example = "{ /title: \"{row.name}\" }",
    };
    public static readonly Key Expect = new(
        "expect", KeyKind.Choice, "how many results a lookup may find; with any other number the item is refused")
    {
        Choices = ["one", "at-most-one"],
        Otherwise = "at-most-one if a later step has when: not-found, otherwise one",
    };
    public static readonly Key IfMatch = new(
        "if-match", KeyKind.Text, "the ETag that must still match (RFC 9110 section 13.1.1); after a 412 the lookup is repeated, once")
    {
        Example = "\"{find.etag}\"",
    };
    public static readonly Key IdempotencyKey = new(
        "idempotency-key",
        KeyKind.Switch,
        "whether the API accepts an Idempotency-Key header and ignores repeats of one key; the key comes from the ledger, and a step in doubt is then sent again")
    {
        Otherwise = "false",
        Example = "true",
    };
    public static readonly Key Validate = new(
        "validate",
        KeyKind.Text,
        "a file with a JSON Schema (2020-12), relative to the job file's folder; a body that does not match it is not sent")
    {
        Example = "notice.schema.json",
    };
    public static readonly Section StepSection = new(
        "step",
        "one request of a write-back",
        [
            When,
            Get,
            Post,
            Put,
            Patch,
            Delete,
            PullKeys.Query,
            PullKeys.Headers,
            Body,
            PullKeys.BodyAs,
            Text,
            Type,
            Rows,
            Where,
            PullKeys.Paging,
            Expect,
            IfMatch,
            IdempotencyKey,
            Validate,
            EncryptionKeys.Body,
            SignatureKeys.Signatures,
        ]);

    // a write
    public static readonly Key Sql = new(
        "sql", KeyKind.Text, "one SELECT over pulls and views whose rows are the items; steps use its columns as {row.COLUMN}")
    {
        Required = true,
        Example = "select id, name, page from customer_pages",
    };
    public static readonly Key KeyColumns = new("key", KeyKind.Texts, "the columns that identify an item from run to run")
    {
        Required = true,
        Example = "[id]",
    };
    public static readonly Key Steps = new(
        "steps", KeyKind.Sections, "the requests for one item, by name and in order; later steps use earlier answers as {STEP.FIELD}")
    {
        Required = true,
        Inside = StepSection,
    };
    public static readonly Key OnlyIfChanged = new(
        "only-if-changed",
        KeyKind.Switch,
        "whether to leave an item alone if it has not changed since it was last sent, or if the lookup finds exactly what would be sent")
    {
        Otherwise = "false: every item is sent in every run",
        Example = "true",
    };
    public static readonly Key MostChanges = new(
        "most-changes", KeyKind.Allowance, "the most items that one run may change, as a count or a share of the items; if more would change, none does")
    {
        Otherwise = "no limit",
        Example = "50",
    };
    public static readonly Key Remove = new(
        "remove",
        KeyKind.Sections,
        "the requests for an item that was sent once and is no longer in sql:; they use the row and answers of that time")
    {
        Otherwise = "such items are left alone",
        Inside = StepSection,
    };
    public static readonly Key Require = new(
        "require",
        KeyKind.TextMap,
        "conditions that all items must meet before any is sent: a sentence, and an SQL condition over the columns of sql:, which can compare items with a window function. A condition that fails stops the write and lists every item that breaks it")
    {
        Example = "{ each number once: count(*) over (partition by number) = 1 }",
    };
    public static readonly Key SkipWhen = PullKeys.SkipWhen with { Meaning = "refusals that skip one item, which is then reported" };
    public static readonly Key Parallel = PullKeys.Parallel with
    {
        Meaning = "how many items to send at a time, 1 to 100",
        Otherwise = "4",
        Example = "4",
    };
    public static readonly Section Section = new(
        "write",
        "requests that change something in an API: one set of steps for each row of SQL, each sent once",
        [
            Sql,
            KeyColumns,
            PullKeys.Api,
            PullKeys.Identity,
            Steps,
            OnlyIfChanged,
            MostChanges,
            Remove,
            SkipWhen,
            Parallel,
            LedgerKeys.WhenInDoubt,
            LedgerKeys.DeliverWithin,
            Require,
            EncryptionKeys.Body,
            SignatureKeys.Signatures,
        ]);
}
