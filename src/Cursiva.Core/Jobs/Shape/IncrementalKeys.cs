namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of incremental pulls and deleted rows.</summary>
public static class IncrementalKeys
{
    public static readonly Key By = new(
        "by",
        KeyKind.Pointer,
        "the field whose highest value becomes the mark; the next run sends it as {mark}")
    { Required = true, Example = "/changed_at" };
    public static readonly Key Overlap = new(
        "overlap",
        KeyKind.Text,
        "how far before the mark the next run starts: a duration for times, a number for numbers")
    { Otherwise = "none", Example = "10m" };
    public static readonly Key FirstMark = new("first", KeyKind.Text, "the mark of the first run")
    {
        Otherwise = "{mark} is omitted",
        Example = "2026-01-01T00:00:00Z",
    };
    public static readonly Section IncrementalSection = new("incremental", "fetches only what is new since the last good run",
    [
        By,
        Overlap,
        FirstMark,
    ]);

    // deleted-when
    public static readonly Key DeletedAt = new("at", KeyKind.Pointer, "the field that marks a row as deleted")
    {
        Required = true,
        Example = "/state",
    };
    public static readonly Key DeletedIs = new("is", KeyKind.Text, "the value that must be there; * for anything but null and false")
    {
        Otherwise = "*",
        Example = "removed",
    };
    public static readonly Section DeletedSection = new("deleted-when", "which rows of later runs mean that a row was deleted",
    [
        DeletedAt,
        DeletedIs,
    ]);
}
