using System.Globalization;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Runs;

/// <summary>Whether a disk has room for what the reports need beside memory.</summary>
internal static class DiskSpace
{
    /// <param name="rows">Bytes of the landed rows.</param>
    /// <param name="memory">Bytes that SQL may take in memory.</param>
    /// <param name="free">Bytes that are free where the rest goes.</param>
    /// <param name="folder">Where that is.</param>
    /// <returns>Why the reports cannot be begun; null when they can.</returns>
    public static Refusal? Lacking(long rows, long memory, long free, string folder)
    {
        var needed = Math.Max(0, rows - memory);
        return free >= needed ? null : new Refusal(
            Outcome.ReportFailed,
            $"the disk does not have enough room for the reports: {Megabytes(free)} are free at {folder}, but about {Megabytes(needed)} are needed, since {Megabytes(rows)} of rows do not fit into memory: {Megabytes(memory)}")
        {
            NextStep = "make room, or raise memory:, and write the reports with cursiva report; nothing is fetched again",
        };
    }

    /// <summary>Bytes of the files below a folder; 0 where it is not there. A file that goes meanwhile does not count.</summary>
    public static long Below(string folder)
    {
        if (!Directory.Exists(folder))
            return 0;
        long sum = 0;
        foreach (var file in new DirectoryInfo(folder).EnumerateFiles(
            "*",
            new EnumerationOptions
            {
                RecurseSubdirectories = true,
                IgnoreInaccessible = true,
                AttributesToSkip = FileAttributes.ReparsePoint,
            }))
        {
            try
            {
                sum += file.Length;
            }
            catch (IOException)
            {
                // Gone since it was listed.
            }
        }

        return sum;
    }

    /// <summary>A number of bytes for people.</summary>
    public static string Megabytes(long bytes) => $"{(bytes / 1048576.0).ToString("N0", CultureInfo.InvariantCulture)} MiB";
}
