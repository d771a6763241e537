using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Parquet, written by the SQL engine into its one allowed file and carried over from there.</summary>
internal static class ParquetFile
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(null) { Suffix = ".parquet", Holds = FormatHolds.OneTable, MayBePacked = false },
    ];

    /// <returns>Its rows.</returns>
    /// <exception cref="SqlException">The SQL fails, or a value does not fit.</exception>
    public static long Write(Database database, PartSource source, string scratchPath, DiskStream stream)
    {
        File.Delete(scratchPath);
        try
        {
            var rows = database.Copy(
                ResultColumn.Kept(source.Columns, source.Sql!),
                scratchPath,
                "format parquet, compression zstd, row_group_size 61440, use_tmp_file false");
            using var made = new FileStream(scratchPath, FileMode.Open, FileAccess.Read);
            made.CopyTo(stream, 1 << 20);
            stream.Flush();
            return rows;
        }
        finally
        {
            File.Delete(scratchPath);
        }
    }
}
