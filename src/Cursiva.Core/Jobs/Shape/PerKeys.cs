namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of <c>per:</c> and <c>window:</c>: what a pull is repeated for.</summary>
public static class PerKeys
{
    public static readonly Key PerName = new(
        "name", KeyKind.Text, "the name of its values in placeholders; for rows of a pull, the pull's name")
    { Example = "tenant" };
    public static readonly Key PerPull = new("pull", KeyKind.Text, "a pull defined above") { Example = "consignments" };
    public static readonly Key PerBatch = new(
        "batch",
        KeyKind.Number,
        "how many rows share a request; placeholders are then lists: separated by commas in a text, repeated in a list of query:, an array in body:")
    { Least = 1, Most = 10_000, Otherwise = "one", Example = "50" };
    public static readonly Key PerList = new("list", KeyKind.Anything, "texts or groups of keys") { Example = "[north, south]" };
    public static readonly Key PerFile = new("file", KeyKind.Text, "a CSV file with a header, relative to the job file's folder")
    {
        Example = "tenants.csv",
    };
    public static readonly Key PerSql = new("sql", KeyKind.Text, "one SELECT over pulls defined above")
    {
        Example = "select distinct depot from consignments",
    };
    public static readonly Section PerSection = new("per", "the list, file or query that a pull is repeated for",
    [
        PerName,
        PerPull,
        PerList,
        PerFile,
        PerSql,
        PerBatch,
    ]);

    // window
    public static readonly Key WindowFrom = new(
        "from",
        KeyKind.Text,
        "the start of the first window: a time with its offset, or a day (UTC)")
    { Required = true, Example = "\"{since}\"" };
    public static readonly Key WindowTo = new("to", KeyKind.Text, "the end of the last window")
    {
        Required = true,
        Example = "\"{until}\"",
    };
    public static readonly Key WindowStep = new("step", KeyKind.Duration, "the length of a window") { Required = true, Example = "1d" };
    public static readonly Key AtMostRows = new(
        "at-most",
        KeyKind.Number,
        "the most rows that the API returns for one query; a window that reaches it is fetched again in two halves")
    {
        Least = 1,
        Otherwise = "windows are never split",
        Example = "10000",
    };
    public static readonly Key WindowForm = new(
        "as",
        KeyKind.Choice,
        "the format of {window.from} and {window.to}: times, days, or seconds since 1970")
    {
        Choices = [.. Enum.GetNames<Jobs.WindowForm>().Select(form => form.ToLowerInvariant())],
        Otherwise = "time",
        Example = "date",
    };
    public static readonly Key EndLess = new(
        "end-less",
        KeyKind.Duration,
        "how much to subtract from {window.to}, for APIs that include rows at the end itself")
    {
        Otherwise = "nothing: the end is exclusive",
        Example = "1s",
    };
    public static readonly Section WindowSection = new("window", "fetches a listing in windows of time",
    [
        WindowFrom,
        WindowTo,
        WindowStep,
        AtMostRows,
        WindowForm,
        EndLess,
    ]);
}
