using Cursiva.Core.Files;

namespace Cursiva.Core.Landing;

/// <summary>Takes the pages of one pull. Its strands share the segments; calls come one at a time or side by side.</summary>
public sealed class PullLanding : IDisposable
{
    private readonly IDisk _disk;
    private readonly string _folder;
    private readonly string _pull;
    private readonly long _segmentSize;
    private readonly Action<LandedPage> _written;
    private readonly Lock _gate = new();
    private readonly Dictionary<int, LandedPage> _last;
    private readonly List<IDiskFile> _toFlush = [];
    private IDiskFile? _file;
    private int _segment;
    private long _offset;

    internal PullLanding(IDisk disk, string folder, string pull, IReadOnlyList<LandedPage> committed, long segmentSize, Action<LandedPage> written)
    {
        _disk = disk;
        _folder = folder;
        _pull = pull;
        _segmentSize = segmentSize;
        _written = written;
        _last = committed.GroupBy(page => page.Strand).ToDictionary(strand => strand.Key, strand => strand.MaxBy(page => page.Page)!);
        Pages = committed.Count;
        Rows = committed.Sum(page => (long)page.Rows);
        _segment = committed.Count > 0 ? committed.Max(page => page.Segment) : 0;
        _offset = committed.Where(page => page.Segment == _segment).Select(page => page.Offset + page.Length).DefaultIfEmpty(0).Max();
    }

    /// <summary>Pages that were there when the landing was opened.</summary>
    public int Pages { get; }

    /// <summary>Rows that were there when the landing was opened.</summary>
    public long Rows { get; }

    /// <summary>The last page of a strand, or null when it has none yet.</summary>
    public LandedPage? Last(int strand)
    {
        lock (_gate)
            return _last.GetValueOrDefault(strand);
    }

    /// <summary>Writes the rows of a strand's next page. They count once they are committed.</summary>
    /// <param name="lines">JSON lines, each with its line break.</param>
    /// <exception cref="IOException">The disk does not take them.</exception>
    public void Append(int strand, ReadOnlySpan<byte> lines, int rows, string? next)
    {
        var checksum = SegmentFolder.Checksum(lines);
        lock (_gate)
        {
            if (_offset >= _segmentSize)
            {
                _segment++;
                _offset = 0;
                _file = null;
            }

            _file ??= OpenSegment();
            _file.Write(lines, _offset);
            var page = new LandedPage(_pull, strand, _last.TryGetValue(strand, out var last) ? last.Page + 1 : 0, _segment, _offset, lines.Length, rows, checksum, next);
            _offset += lines.Length;
            _last[strand] = page;
            _written(page);
        }
    }

    /// <summary>Makes everything written durable.</summary>
    internal void Flush()
    {
        IDiskFile[] files;
        IDiskFile[] done;
        lock (_gate)
        {
            files = [.. _toFlush];
            done = [.. _toFlush.Where(file => file != _file)];
            _toFlush.RemoveAll(file => file != _file);
        }

        foreach (var file in files)
            file.Flush();
        foreach (var file in done)
            file.Dispose();
    }

    public void Dispose()
    {
        foreach (var file in _toFlush)
            file.Dispose();
    }

    private IDiskFile OpenSegment()
    {
        _disk.CreateFolder(_folder);
        var path = SegmentFolder.PathOf(_folder, _segment);
        var isNew = !_disk.Exists(path);
        var file = _disk.Open(path);
        if (isNew)
            _disk.FlushFolder(_folder);
        _toFlush.Add(file);
        return file;
    }
}
