namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys about single strands: trees, skips and failures with a successful status.</summary>
public static class StrandKeys
{
    // opens
    public static readonly Key OpensWhen = new(
        "when",
        KeyKind.TextMap,
        "the values that a row must have to open a listing, as JSON Pointers and values; * for any value")
    {
        Otherwise = "every row opens one",
        Example = "{ /kind: folder }",
    };
    public static readonly Key OpensGet = new("get", KeyKind.Path, "the path of that listing; the row's columns are {PULL.column}")
    {
        Required = true,
        Example = "/folders/{folders.id}/children",
    };
    public static readonly Key Deepest = new("deepest", KeyKind.Number, "the most levels below the first listing, 1 to 1000")
    {
        Least = 1,
        Most = 1_000,
        Otherwise = "50",
        Example = "50",
    };
    public static readonly Section OpensSection = new(
        "opens", "rows that lead to another listing of the same pull, such as a folder in a folder", [OpensWhen, OpensGet, Deepest]);

    // skips
    public static readonly Key SkipStatus = new("status", KeyKind.Number, "the status of the answer")
    {
        Least = 200,
        Most = 599,
        Example = "403",
    };
    public static readonly Key SkipAt = new("at", KeyKind.Pointer, "the place in the answer that is: is compared with")
    {
        Example = "/code",
    };
    public static readonly Key SkipIs = new("is", KeyKind.Text, "the value that must be there; * for any value")
    {
        Otherwise = "*",
        Example = "no_licence",
    };
    public static readonly Key SkipSignIn = new(
        "sign-in",
        KeyKind.Text,
        "the error of a refused sign-in (RFC 6749 section 5.2), instead of status:; * for any error")
    { Example = "unauthorized_client" };
    public static readonly Key SkipBecause = new("because", KeyKind.Text, "the reason, in words that the report's readers understand")
    {
        Example = "the carrier has no licence",
    };
    public static readonly Section SkipSection = new("skip-when", "a refusal that skips one strand and stops nothing else",
    [
        SkipStatus,
        SkipAt,
        SkipIs,
        SkipSignIn,
        SkipBecause,
    ]);

    // failures with status 200
    public static readonly Key FailAt = new("at", KeyKind.Pointer, "the place in the answer that is: is compared with")
    {
        Required = true,
        Example = "/errors",
    };
    public static readonly Key FailIs = new(
        "is",
        KeyKind.Text,
        "the value that must be there; * for anything but null, false, and empty values")
    { Otherwise = "*", Example = "failed" };
    public static readonly Key FailAgain = new("again", KeyKind.Switch, "whether to retry the request before the pull fails")
    {
        Otherwise = "false",
        Example = "true",
    };
    public static readonly Section FailSection = new("fail-when", "an answer that is a failure despite a successful status",
    [
        FailAt,
        FailIs,
        FailAgain,
    ]);
}
