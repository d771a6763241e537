using System.Buffers;
using System.Globalization;
using System.IO.Hashing;
using Cursiva.Core.Files;

namespace Cursiva.Core.Landing;

/// <summary>The segments of one pull on disk.</summary>
internal static class SegmentFolder
{
    public static string PathOf(string folder, int segment) =>
        Path.Combine(folder, $"segment-{segment.ToString("D5", CultureInfo.InvariantCulture)}.jsonl");

    public static long Checksum(ReadOnlySpan<byte> bytes) => (long)XxHash3.HashToUInt64(bytes);

    /// <summary>Makes sure that no page is missing between those that were committed.</summary>
    /// <param name="committed">By strand and page.</param>
    /// <exception cref="LandingDamagedException">One is.</exception>
    public static void CheckWhole(string pull, IReadOnlyList<LandedPlace> committed)
    {
        var (strand, next) = ((string?)null, 0);
        foreach (var page in committed)
        {
            if (page.Strand != strand)
                (strand, next) = (page.Strand, 0);
            if (page.Page != next++)
                throw new LandingDamagedException(
                    $"page {next} of pull '{pull}' is missing from the landing, but page {page.Page + 1} exists");
        }
    }

    /// <summary>Cuts the segments back to what was committed, removes others, and verifies every committed page.</summary>
    /// <exception cref="LandingDamagedException">A committed page is not there as it was.</exception>
    public static void Recover(IDisk disk, string folder, string pull, IReadOnlyList<LandedPlace> committed)
    {
        var ends = committed.GroupBy(page => page.Segment).ToDictionary(
            group => PathOf(folder, group.Key), group => group.Max(page => page.Offset + page.Length));
        foreach (var path in disk.List(folder))
        {
            if (!ends.TryGetValue(path, out var end))
            {
                disk.Delete(path);
                continue;
            }

            using var file = disk.Open(path);
            if (file.Length > end)
            {
                file.SetLength(end);
                file.Flush();
            }
        }

        CheckWhole(pull, committed);
        Verify(disk, folder, pull, committed);
    }

    /// <summary>Verifies every committed page.</summary>
    /// <exception cref="LandingDamagedException">One is not there as it was.</exception>
    public static void Verify(IDisk disk, string folder, string pull, IReadOnlyList<LandedPlace> committed)
    {
        foreach (var segment in committed.Where(page => page.Length > 0).GroupBy(page => page.Segment))
        {
            using var file = disk.Open(PathOf(folder, segment.Key));
            foreach (var page in segment.OrderBy(page => page.Offset))
            {
                var bytes = ArrayPool<byte>.Shared.Rent(page.Length);
                try
                {
                    if (!ReadWhole(file, bytes.AsSpan(0, page.Length), page.Offset)
                        || Checksum(bytes.AsSpan(0, page.Length)) != page.Checksum)
                        throw new LandingDamagedException(
                            $"page {page.Page + 1} of pull '{pull}' is damaged in {PathOf(folder, page.Segment)}");
                }
                finally
                {
                    ArrayPool<byte>.Shared.Return(bytes);
                }
            }
        }
    }

    public static bool ReadWhole(IDiskFile file, Span<byte> buffer, long offset)
    {
        while (buffer.Length > 0)
        {
            var read = file.Read(buffer, offset);
            if (read == 0)
                return false;
            buffer = buffer[read..];
            offset += read;
        }

        return true;
    }
}
