namespace Cursiva.Core.Jobs;

/// <summary>Which suffix means which format.</summary>
internal static class FileSuffixes
{
    private static readonly (string Suffix, FileFormat Format)[] s_formats =
    [
        (".csv", FileFormat.Csv), (".jsonl", FileFormat.JsonLines), (".json", FileFormat.Json), (".parquet", FileFormat.Parquet), (".sqlite", FileFormat.Sqlite), (
            ".xlsx", FileFormat.Xlsx),
        (".md", FileFormat.Markdown), (".fragment.html", FileFormat.Fragment), (".html", FileFormat.HtmlPage), (".svg", FileFormat.Svg), (
            ".png", FileFormat.Png),
    ];

    private static readonly (string Suffix, FilePacking Packing)[] s_packings = [(".gz", FilePacking.Gzip), (".zst", FilePacking.Zstd)];

    /// <summary>All suffixes, for messages.</summary>
    public static string All => string.Join(", ", s_formats.Select(format => format.Suffix)) + "; texts may have .gz or .zst behind it";

    /// <summary>The format and packing of a file; null when its suffix means nothing.</summary>
    public static (FileFormat Format, FilePacking Packing)? Of(string path)
    {
        var packing = s_packings.FirstOrDefault(packing => path.EndsWith(packing.Suffix, StringComparison.OrdinalIgnoreCase));
        var name = packing.Suffix is null ? path : path[..^packing.Suffix.Length];
        foreach (var (suffix, format) in s_formats)
        {
            if (name.EndsWith(suffix, StringComparison.OrdinalIgnoreCase))
                return packing.Packing != FilePacking.None && !IsText(format) ? null : (format, packing.Packing);
        }

        return null;
    }

    // The others are compressed within.
    private static bool IsText(FileFormat format) =>
        format is FileFormat.Csv or FileFormat.JsonLines or FileFormat.Json or FileFormat.Markdown or FileFormat.HtmlPage or FileFormat.Fragment or FileFormat.Svg;
}
