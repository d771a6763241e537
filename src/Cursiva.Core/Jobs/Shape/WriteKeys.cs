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
        "the step is taken only if the look before it found the thing, or did not: found or not-found, with the name of the step that looked where there are several")
    {
        Otherwise = "it is always taken",
        Example = "not-found",
    };
    public static readonly Key Get = new("get", KeyKind.Path, "looks: the path" + Path) { Example = "/documents{?title}" };
    public static readonly Key Post = new("post", KeyKind.Path, "the path of a POST" + Path) { Example = "/documents" };
    public static readonly Key Put = new("put", KeyKind.Path, "the path of a PUT" + Path) { Example = "/documents/{row.id}" };
    public static readonly Key Patch = new("patch", KeyKind.Path, "the path of a PATCH" + Path) { Example = "/documents/{find.id}" };
    public static readonly Key Delete = new("delete", KeyKind.Path, "the path of a DELETE" + Path) { Example = "/documents/{find.id}" };
    public static readonly Key Body = new(
        "body",
        KeyKind.Anything,
        "the body, sent as JSON with the types it has here; \"{row.id}\" alone in its quotes keeps the type of the row or the answer, {html:row.name} and {json:row.name} put a value into HTML or JSON that is text; a text may be a secret source")
    {
        Example = "{ title: \"{row.name}\", board: \"{board.id}\" }",
    };
    public static readonly Key Text = new("text", KeyKind.Text, "a body that is not JSON, in place of body:")
    {
        Example = "<h1>{html:row.name}</h1>",
    };
    public static readonly Key Type = new("type", KeyKind.Text, "the media type of the body")
    {
        Otherwise = "application/json; of text:, text/plain; charset=utf-8",
        Example = "text/html; charset=utf-8",
    };
    public static readonly Key Rows = new(
        "rows",
        KeyKind.Pointer,
        "where the answer to a look has the array of things; without it the answer is the thing, and 404 means that there is none")
    {
        Example = "/items",
    };
    public static readonly Key Where = new(
        "where", KeyKind.TextMap, "what the wanted thing has: JSON Pointers and their values, compared to the letter")
    {
        Example = "{ /title: \"{row.name}\" }",
    };
    public static readonly Key Expect = new(
        "expect", KeyKind.Choice, "how many things a look may find; others refuse the item, and nothing is guessed")
    {
        Choices = ["one", "at-most-one"],
        Otherwise = "at-most-one where a later step has when: not-found, else one",
    };
    public static readonly Key IfMatch = new(
        "if-match", KeyKind.Text, "the ETag that the thing must still have (RFC 9110 section 13.1.1); 412 leads back to the look, once")
    {
        Example = "\"{find.etag}\"",
    };
    public static readonly Key IdempotencyKey = new(
        "idempotency-key",
        KeyKind.Switch,
        "whether the API takes a header Idempotency-Key and does nothing twice under one key; the ledger gives it, and what is in doubt may then be sent again")
    {
        Otherwise = "false",
        Example = "true",
    };
    public static readonly Key Validate = new(
        "validate",
        KeyKind.Text,
        "a file with a JSON Schema (2020-12) that the body must fit before it is sent, from the job file's folder")
    {
        Example = "notice.schema.json",
    };
    public static readonly Section StepSection = new(
        "step",
        "one request of a write-back",
        [When, Get, Post, Put, Patch, Delete, PullKeys.Query, PullKeys.Headers, Body, PullKeys.BodyAs, Text, Type, Rows, Where, PullKeys.Paging, Expect, IfMatch, IdempotencyKey, Validate, PayloadKeys.Body, PayloadKeys.Signatures]);

    // a write
    public static readonly Key Sql = new(
        "sql", KeyKind.Text, "gives the items, one a row: one SELECT over pulls and views; steps have its columns as {row.COLUMN}")
    {
        Required = true,
        Example = "select id, name, page from customer_pages",
    };
    public static readonly Key KeyColumns = new("key", KeyKind.Texts, "the columns that tell items apart, from run to run")
    {
        Required = true,
        Example = "[id]",
    };
    public static readonly Key Steps = new(
        "steps", KeyKind.Sections, "the requests for one item, in their order, by name; later ones have earlier answers as {STEP.FIELD}")
    {
        Required = true,
        Inside = StepSection,
    };
    public static readonly Key OnlyIfChanged = new(
        "only-if-changed",
        KeyKind.Switch,
        "whether an item is left alone that is as it was sent last, or whose look brings what would be sent")
    {
        Otherwise = "false: every item is sent in every run",
        Example = "true",
    };
    public static readonly Key MostChanges = new(
        "most-changes", KeyKind.Allowance, "how many items may be changed in one run, or what share of them; where more would be, none is")
    {
        Otherwise = "any number",
        Example = "50",
    };
    public static readonly Key Remove = new(
        "remove",
        KeyKind.Sections,
        "the requests for an item that was sent and is no longer in sql:; they have the row and the answers of that time")
    {
        Otherwise = "such items stay as they are",
        Inside = StepSection,
    };
    public static readonly Key Require = new(
        "require",
        KeyKind.TextMap,
        "what must hold of every item before any is sent: a sentence, and an SQL condition over the columns of sql:, which may compare items by a window function; one that does not hold stops the write, and every item that breaks it is named")
    {
        Example = "{ each number once: count(*) over (partition by number) = 1 }",
    };
    public static readonly Section Section = new(
        "write",
        "requests that change something in an API, one set of steps for each row of SQL, each once",
        [Sql, KeyColumns, PullKeys.Api, PullKeys.Identity, Steps, OnlyIfChanged, MostChanges, Remove, PullKeys.SkipWhen, PullKeys.Parallel, LedgerKeys.WhenInDoubt, LedgerKeys.DeliverWithin, Require, PayloadKeys.Body, PayloadKeys.Signatures]);
}
