namespace Cursiva.Core.Jobs;

/// <summary>What a report can be written as; the suffix of a file tells.</summary>
public enum FileFormat
{
    Csv,
    JsonLines,
    Json,
    Parquet,
    Sqlite,
    Xlsx,
    Markdown,

    /// <summary>One HTML file that needs nothing else.</summary>
    Page,

    /// <summary>HTML without scripts and with inline styles, to be pasted into a mail or a wiki page.</summary>
    Fragment,
    Svg,
    Png,
}
