namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of reports, and of what they are made from.</summary>
public static class ReportKeys
{
    // what must hold
    public static readonly Key AtLeast = new("at-least", KeyKind.Number, "the fewest rows") { Least = 0, Example = "1" };
    public static readonly Key AtMost = new("at-most", KeyKind.Number, "the most rows") { Least = 0, Example = "100000" };
    public static readonly Key RowsChange = new(
        "rows-change", KeyKind.Share, "the most that the number of rows may have changed since the last good run")
    {
        Example = "20%",
    };
    public static readonly Key NoNulls = new("no-nulls", KeyKind.Texts, "columns that have a value in every row")
    {
        Example = "[reference, depot]",
    };
    public static readonly Key Unique = new("unique", KeyKind.Texts, "columns that together tell every row apart")
    {
        Example = "[reference]",
    };
    public static readonly Key Within = new(
        "within", KeyKind.TextsMap, "columns of numbers, each with the lowest and the highest value that it may have")
    {
        Example = "{ weight_kg: [0, 40000] }",
    };
    public static readonly Section RequireSection = new(
        "requirement",
        "what has to hold of a report's rows; otherwise the report is not written, the last good files stay, and the run ends with code 8",
        [AtLeast, AtMost, RowsChange, NoNulls, Unique, Within]);
    public static readonly Key Require = new("require", KeyKind.Section, "what has to hold of the rows") { Inside = RequireSection };

    // CSV
    public static readonly Key Preset = new(
        "preset",
        KeyKind.Choice,
        "plain follows RFC 4180; spreadsheet opens correctly when double-clicked: a byte-order mark, long and zero-led numbers kept as text, every text in quotes, formulas neutralised")
    {
        Choices = ["plain", "spreadsheet"],
        Otherwise = "plain",
    };
    public static readonly Key Delimiter = new("delimiter", KeyKind.Text, "the character between values, or tab")
    {
        Otherwise = "a comma",
        Example = "\";\"",
    };
    public static readonly Key Header = new("header", KeyKind.Switch, "whether the first line names the columns") { Otherwise = "true" };
    public static readonly Key LineEnds = new("line-ends", KeyKind.Choice, "what ends a line")
    {
        Choices = ["crlf", "lf"],
        Otherwise = "crlf",
    };
    public static readonly Key ByteOrderMark = new("byte-order-mark", KeyKind.Switch, "whether the file begins with a byte-order mark")
    {
        Otherwise = "the preset's",
    };
    public static readonly Section CsvSection = new(
        "csv", "how CSV files of a report are written", [Preset, Delimiter, Header, LineEnds, ByteOrderMark]);

    // parts
    public static readonly Key As = new(
        "as",
        KeyKind.Choice,
        "how the part is shown; a bar, stacked-bar or share takes its labels from the first column and a line its times or numbers, and the other columns are the values; three columns of label or time, series (a text) and value make a series of each text")
    {
        Choices = ["table", "figure", "bar", "stacked-bar", "line", "share", "text"],
        Otherwise = "text where there is text:, and table otherwise",
    };
    public static readonly Key PartTitle = new("title", KeyKind.Text, "what stands above it")
    {
        Otherwise = "the part's name",
        Example = "Late consignments",
    };
    public static readonly Key PartSql = new("sql", KeyKind.Text, "one SELECT that gives its rows; of a figure, one row with one value")
    {
        Example = "select count(*) from consignments where status = 'late'",
    };
    public static readonly Key Words = new(
        "text", KeyKind.Text, "words, in paragraphs parted by empty lines; {run.date} and {run.number} may be used")
    {
        Example = "Late means more than 24 hours after the due time.",
    };
    public static readonly Key Unit = new("unit", KeyKind.Text, "what the numbers count, for people") { Example = "consignments" };
    public static readonly Key Mark = new(
        "mark", KeyKind.TextMap, "values at which a bar, stacked-bar or line has a line, such as a limit, each with its words")
    {
        NamesAreNumbers = true,
        Example = "{ 8: limit }",
    };
    public static readonly Section PartSection = new(
        "part",
        "one thing that a report shows: headline figure, table, chart or words",
        [As, PartTitle, PartSql, Words, Unit, Mark, Require]);

    // reports
    public static readonly Key Title = new("title", KeyKind.Text, "what the report is called, for its readers")
    {
        Otherwise = "the report's name; of a job with one report, the job's title",
        Example = "Depot activity",
    };
    public static readonly Key Sql = new("sql", KeyKind.Text, "one SELECT over the tables, for a report of one table");
    public static readonly Key Parts = new("parts", KeyKind.Sections, "what the report shows, by name, from top to bottom; instead of sql")
    {
        Inside = PartSection,
    };
    public static readonly Key Write = new(
        "write",
        KeyKind.Texts,
        "the files to write under out:, by suffix: .csv, .jsonl, .json, .parquet, .sqlite, .xlsx, .md, .html, .fragment.html (for a mail or a wiki page), .svg and .png (a report's only chart); .gz or .zst behind a text; {run.date}, {run.number} and, with file-per, {COLUMN} may be used")
    {
        Required = true,
        Example = "[late.csv, late.xlsx, late.html]",
    };
    public static readonly Key FilePer = new(
        "file-per", KeyKind.Text, "the column for each of whose values the files are written once; {COLUMN} in their names takes the value")
    {
        Otherwise = "one file of all rows",
        Example = "depot",
    };
    public static readonly Key Csv = new("csv", KeyKind.Section, "how CSV files are written") { Inside = CsvSection };
    public static readonly Section ReportSection = new(
        "report",
        "SQL over landed rows, laid out in parts and written to files; all of its files appear together",
        [Title, Sql, Parts, Require, FilePer, Csv, Write]);

    // comparisons
    public static readonly Key CompareKey = new("key", KeyKind.Texts, "columns that tell the rows apart")
    {
        Otherwise = "the columns of the pull's key:",
        Example = "[reference]",
    };
    public static readonly Key Ignore = new("ignore", KeyKind.Texts, "columns whose changes do not count") { Example = "[updated_at]" };
    public static readonly Section CompareSection = new(
        "comparison",
        "compares a pull with the last good run: added.PULL and removed.PULL have the rows, changed.PULL the key, column, before and now of every value that changed",
        [CompareKey, Ignore]);
}
