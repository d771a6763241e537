namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of reports, and of what they are made from.</summary>
public static class ReportKeys
{
    // what must hold
    public static readonly Key AtLeast = new("at-least", KeyKind.Number, "the fewest rows") { Least = 0, Example = "1" };
    public static readonly Key AtMost = new("at-most", KeyKind.Number, "the most rows") { Least = 0, Example = "100000" };
    public static readonly Key RowsChange = new(
        "rows-change", KeyKind.Share, "the largest change in the number of rows since the last good run")
    {
        Example = "20%",
    };
    public static readonly Key NoNulls = new("no-nulls", KeyKind.Texts, "columns that must have a value in every row")
    {
        Example = "[reference, depot]",
    };
    public static readonly Key Unique = new("unique", KeyKind.Texts, "columns that together must be different in every row")
    {
        Example = "[reference]",
    };
    public static readonly Key Within = new(
        "within", KeyKind.TextsMap, "columns of numbers, each with its lowest and highest allowed value")
    {
        Example = "{ weight_kg: [0, 40000] }",
    };
    public static readonly Section RequireSection = new(
        "requirement",
        "conditions that a report's rows must meet; otherwise the report is not written, the last good files stay, and the run ends with code 8",
        [AtLeast, AtMost, RowsChange, NoNulls, Unique, Within]);
    public static readonly Key Require = new("require", KeyKind.Section, "conditions that the rows must meet") { Inside = RequireSection };

    // CSV
    public static readonly Key Preset = new(
        "preset",
        KeyKind.Choice,
        "plain follows RFC 4180; spreadsheet opens correctly when double-clicked: it has a byte-order mark, keeps long numbers and leading zeros as text, quotes every text, and neutralises formulas")
    {
        Choices = ["plain", "spreadsheet"],
        Otherwise = "plain",
    };
    public static readonly Key Delimiter = new("delimiter", KeyKind.Text, "the separator: a character, or tab")
    {
        Otherwise = "a comma",
        Example = "\";\"",
    };
    public static readonly Key Header = new("header", KeyKind.Switch, "whether the first line has the column names") { Otherwise = "true" };
    public static readonly Key LineEnds = new("line-ends", KeyKind.Choice, "the line ending")
    {
        Choices = ["crlf", "lf"],
        Otherwise = "crlf",
    };
    public static readonly Key ByteOrderMark = new("byte-order-mark", KeyKind.Switch, "whether the file starts with a byte-order mark")
    {
        Otherwise = "as the preset says",
    };
    public static readonly Section CsvSection = new(
        "csv", "the format of a report's CSV files", [Preset, Delimiter, Header, LineEnds, ByteOrderMark]);

    // parts
    public static readonly Key As = new(
        "as",
        KeyKind.Choice,
        "how to show the part. The first column has the labels of a bar, stacked-bar or share, or the times or numbers of a line; each other column is a series of values. Three columns of label or time, series (a text) and value make one series for each text")
    {
        Choices = ["table", "figure", "bar", "stacked-bar", "line", "share", "text"],
        Otherwise = "text if there is text:, otherwise table",
    };
    public static readonly Key PartTitle = new("title", KeyKind.Text, "the title above the part")
    {
        Otherwise = "the part's name",
        Example = "Late consignments",
    };
    public static readonly Key PartSql = new("sql", KeyKind.Text, "one SELECT for its rows; for a figure, one row with one value")
    {
        Example = "select count(*) from consignments where status = 'late'",
    };
    public static readonly Key Words = new(
        "text", KeyKind.Text, "text in paragraphs separated by empty lines; {run.date} and {run.number} can be used")
    {
        Example = "Late means more than 24 hours after the due time.",
    };
    public static readonly Key Unit = new("unit", KeyKind.Text, "the unit of the numbers") { Example = "consignments" };
    public static readonly Key Mark = new(
        "mark", KeyKind.TextMap, "reference lines in a bar, stacked-bar or line, such as a limit: each value with its label")
    {
        NamesAreNumbers = true,
        Example = "{ 8: limit }",
    };
    public static readonly Section PartSection = new(
        "part",
        "one part of a report: a headline figure, table, chart or text",
        [As, PartTitle, PartSql, Words, Unit, Mark, Require]);

    // reports
    public static readonly Key Title = new("title", KeyKind.Text, "the report's title, for its readers")
    {
        Otherwise = "the report's name, or the job's title if this is its only report",
        Example = "Depot activity",
    };
    public static readonly Key Sql = new("sql", KeyKind.Text, "one SELECT over the tables, for a report with a single table");
    public static readonly Key Parts = new(
        "parts", KeyKind.Sections, "the parts of the report, by name, from top to bottom; instead of sql:")
    {
        Inside = PartSection,
    };
    public static readonly Key Write = new(
        "write",
        KeyKind.Texts,
        "the files to write under out:. The suffix sets the format: .csv, .jsonl, .json, .parquet, .sqlite, .xlsx, .md, .html, .fragment.html (for a mail or a wiki page), .svg and .png (the report's only chart); add .gz or .zst to compress a text format. {run.date}, {run.number} and, with file-per:, {COLUMN} can be used")
    {
        Required = true,
        Example = "[late.csv, late.xlsx, late.html]",
    };
    public static readonly Key FilePer = new(
        "file-per", KeyKind.Text, "a column; the files are written once for each of its values, which replaces {COLUMN} in their names")
    {
        Otherwise = "one file with all rows",
        Example = "depot",
    };
    public static readonly Key Csv = new("csv", KeyKind.Section, "the format of CSV files") { Inside = CsvSection };
    public static readonly Section ReportSection = new(
        "report",
        "SQL over the landed rows, shown in parts and written to files that appear all at once",
        [Title, Sql, Parts, Require, FilePer, Csv, Write]);

    // comparisons
    public static readonly Key CompareKey = new("key", KeyKind.Texts, "the columns that identify a row")
    {
        Otherwise = "the columns of the pull's key:",
        Example = "[reference]",
    };
    public static readonly Key Ignore = new("ignore", KeyKind.Texts, "columns whose changes are ignored") { Example = "[updated_at]" };
    public static readonly Section CompareSection = new(
        "comparison",
        "compares a pull with the last good run: added.PULL and removed.PULL have whole rows, changed.PULL has the key, column, before and now of every changed value",
        [CompareKey, Ignore]);
}
