using System.Buffers;
using Cursiva.Core.Files;

namespace Cursiva.Core.Landing;

/// <summary>The rows of a pull, in strand and page order, whatever order they came in.</summary>
/// <param name="pages">The pages that have rows.</param>
/// <param name="carried">Gives the columns that the rows of each strand take along, JSON objects by strand.</param>
public sealed class LandedRows(
    IDisk disk, string folder, string pull, IReadOnlyList<LandedPlace> pages, Func<IReadOnlyDictionary<string, byte[]>> carried)
{
    private readonly Lazy<IReadOnlyDictionary<string, byte[]>> _carried = new(carried);

    /// <summary>
    /// Takes the strand of a page, and its rows as JSON lines, each with its line break. The bytes are only good during the call.
    /// </summary>
    public delegate void PageReader(string strand, ReadOnlySpan<byte> lines);

    /// <summary>Rows in all.</summary>
    public long Count { get; } = pages.Sum(page => (long)page.Rows);

    /// <summary>The columns that the rows of a strand take along, a JSON object.</summary>
    public ReadOnlySpan<byte> Carried(string strand) => _carried.Value.TryGetValue(strand, out var columns) ? columns : "{}"u8;

    /// <summary>The pages in pieces of some size, the last one aside.</summary>
    public IEnumerable<Range> Pieces(long bytes)
    {
        var (start, size) = (0, 0L);
        for (var page = 0; page < pages.Count; page++)
        {
            size += pages[page].Length;
            if (size < bytes)
                continue;
            yield return start..(page + 1);
            (start, size) = (page + 1, 0);
        }

        if (start < pages.Count)
            yield return start..pages.Count;
    }

    /// <summary>Rows on the pages before one.</summary>
    public long RowsBefore(int page) => pages.Take(page).Sum(before => (long)before.Rows);

    /// <summary>Reads every page, one at a time.</summary>
    /// <exception cref="LandingDamagedException">A page is not there as it was committed.</exception>
    public void Read(PageReader read, CancellationToken cancel) => Read(.., read, cancel);

    /// <summary>Reads some of the pages, one at a time. May be called by several threads.</summary>
    /// <exception cref="LandingDamagedException">A page is not there as it was committed.</exception>
    public void Read(Range piece, PageReader read, CancellationToken cancel)
    {
        var files = new Dictionary<int, IDiskFile>();
        try
        {
            foreach (var page in pages.Take(piece))
            {
                cancel.ThrowIfCancellationRequested();
                if (!files.TryGetValue(page.Segment, out var file))
                    files[page.Segment] = file = disk.Open(SegmentFolder.PathOf(folder, page.Segment));

                var bytes = ArrayPool<byte>.Shared.Rent(page.Length);
                try
                {
                    var lines = bytes.AsSpan(0, page.Length);
                    if (!SegmentFolder.ReadWhole(file, lines, page.Offset) || SegmentFolder.Checksum(lines) != page.Checksum)
                        throw new LandingDamagedException(
                            $"page {page.Page + 1} of pull '{pull}' is damaged in {SegmentFolder.PathOf(folder, page.Segment)}");
                    read(page.Strand, lines);
                }
                finally
                {
                    ArrayPool<byte>.Shared.Return(bytes);
                }
            }
        }
        finally
        {
            foreach (var file in files.Values)
                file.Dispose();
        }
    }
}
