namespace Cursiva.Core.Jobs;

/// <summary>What a report can be written as; the suffix of a file tells.</summary>
public enum FileFormat
{
    /// <summary>RFC 4180.</summary>
    Csv,
    /// <summary>One JSON object a line.</summary>
    JsonLines,
    /// <summary>One JSON array of objects.</summary>
    Json,
    /// <summary>Apache Parquet.</summary>
    Parquet,
    /// <summary>An SQLite database.</summary>
    Sqlite,
    /// <summary>A workbook (ISO/IEC 29500).</summary>
    Xlsx,
    /// <summary>Text with tables.</summary>
    Markdown,

    /// <summary>One HTML file that needs nothing else.</summary>
    HtmlPage,

    /// <summary>HTML without scripts and with inline styles, to be pasted into a mail or a wiki page.</summary>
    Fragment,
    /// <summary>A drawn chart.</summary>
    Svg,
    /// <summary>A chart as pixels.</summary>
    Png,
}
