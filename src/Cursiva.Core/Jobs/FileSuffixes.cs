namespace Cursiva.Core.Jobs;

/// <summary>Which suffix means which format.</summary>
internal static class FileSuffixes
{
    private static readonly (string Suffix, FilePacking Packing)[] s_packings = [(".gz", FilePacking.Gzip), (".zst", FilePacking.Zstd)];

    /// <summary>All suffixes, for messages.</summary>
    public static string All =>
        string.Join(
            ", ", FileFormats.All.Select(format => format.Suffix).Order(StringComparer.Ordinal)) + "; .gz or .zst can follow a text format";

    /// <summary>The format and packing of a file; null when its suffix means nothing.</summary>
    public static (FileFormat Format, FilePacking Packing)? Of(string path)
    {
        var packing = s_packings.FirstOrDefault(packing => path.EndsWith(packing.Suffix, StringComparison.OrdinalIgnoreCase));
        var name = packing.Suffix is null ? path : path[..^packing.Suffix.Length];
        var format = FileFormats.All.Where(format => name.EndsWith(format.Suffix, StringComparison.OrdinalIgnoreCase)).MaxBy(
            format => format.Suffix.Length);
        return format is null || (packing.Packing != FilePacking.None && !format.MayBePacked) ? null : (format, packing.Packing);
    }
}
