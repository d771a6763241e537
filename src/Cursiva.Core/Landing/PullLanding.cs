using Cursiva.Core.Files;
using Cursiva.Core.State;

namespace Cursiva.Core.Landing;

/// <summary>Takes the pages of one pull. Its strands share the segments; calls come one at a time or side by side.</summary>
public sealed class PullLanding : IDisposable
{
    private readonly IDisk _disk;
    private readonly string _folder;
    private readonly PageIndex _index;
    private readonly long _segmentSize;
    private readonly Action<IndexChange> _changed;
    private readonly Action<Exception> _failed;
    private readonly Lock _gate = new();
    private readonly Dictionary<string, (LandedPage? Last, LandedPage? Whole)> _ends = new(StringComparer.Ordinal);
    private readonly List<IDiskFile> _open = [];
    private readonly HashSet<IDiskFile> _toFlush = [];
    private readonly bool _isNew;
    private IDiskFile? _file;
    private int _segment;
    private long _offset;

    internal PullLanding(
        IDisk disk,
        string folder,
        string pull,
        PageIndex index,
        IReadOnlyList<LandedPlace> committed,
        long segmentSize,
        Action<IndexChange> changed,
        Action<Exception> failed)
    {
        _failed = failed;
        _disk = disk;
        _folder = folder;
        Name = pull;
        _index = index;
        _segmentSize = segmentSize;
        _changed = changed;
        Pages = committed.Count;
        Rows = committed.Sum(page => (long)page.Rows);

        // Nothing was begun yet: no strand has to be looked for, which would wait for the commits of the others.
        _isNew = committed.Count == 0 && !index.Strands.Any(pull);
        _segment = committed.Count > 0 ? committed.Max(page => page.Segment) : 0;
        _offset = committed.Where(page => page.Segment == _segment).Select(page => page.Offset + page.Length).DefaultIfEmpty(0).Max();
    }

    /// <summary>The pull's name.</summary>
    public string Name { get; }

    /// <summary>Pages that were there when the landing was opened.</summary>
    public int Pages { get; }

    /// <summary>Rows that were there when the landing was opened.</summary>
    public long Rows { get; }

    /// <summary>The last whole page of a strand, or null when it has none yet. Pieces after it are dropped: their stream was cut short.</summary>
    public LandedPage? Last(string strand)
    {
        lock (_gate)
        {
            if (!_ends.TryGetValue(strand, out var end))
            {
                var last = !_isNew && _index.LastPages(Name, strand, 1) is [var page] ? page : null;
                var whole = last?.IsPiece == true ? _index.LastPages(Name, strand, int.MaxValue).Find(page => !page.IsPiece) : last;
                _ends[strand] = end = (last, whole);
            }

            return end.Last?.IsPiece == true ? DropPieces(strand) : end.Last;
        }
    }

    /// <summary>The rows of a strand that are landed, and the checksums of its pages that have any.</summary>
    public (long Rows, List<long> Checksums) RowsOf(string strand) => _isNew ? (0, []) : _index.RowsOf(Name, strand);

    /// <summary>Whether landed pages led on to others, and whether they told how many rows there are.</summary>
    /// <param name="asOfNow">Whether pages count that were committed since the landing was opened.</param>
    public (bool LedOn, bool Told) Seen(bool asOfNow = false) => _isNew && !asOfNow ? (false, false) : _index.SeenOf(Name);

    /// <summary>What is known of a strand; null when it was not begun.</summary>
    public LandedStrand? Strand(string strand) => _isNew ? null : _index.Strands.Find(Name, strand);

    /// <summary>The strands from one on, up to another, that needed nothing more when the landing was opened.</summary>
    /// <returns>Whether each was skipped, by strand.</returns>
    public IReadOnlyDictionary<string, bool> Ended(string from, string before) =>
        _isNew ? new Dictionary<string, bool>() : _index.Strands.Ended(Name, from, before);

    /// <summary>Notes that a strand begins, or that it is skipped.</summary>
    public void Put(LandedStrand strand) => _changed(new IndexChange(Strand: strand));

    /// <summary>Whether a strand needs nothing more, as far as this machine knows.</summary>
    public bool HasEnded(string strand)
    {
        lock (_gate)
        {
            var last = _ends.TryGetValue(strand, out var end) ? end.Last : _index.LastPages(Name, strand, 1).FirstOrDefault();
            return last is { Next: null, IsPiece: false };
        }
    }

    /// <summary>Lands what another machine landed of a strand, behind the whole pages that are here, without telling anybody.</summary>
    /// <param name="pages">All pages of the strand, in order.</param>
    /// <param name="startsOver">Whether what is here of it does not count.</param>
    /// <returns>The pages that are new here.</returns>
    /// <exception cref="LandingDamagedException">One is not as it was written.</exception>
    public IReadOnlyList<LandedPage> Import(string strand, IEnumerable<StoredPage> pages, bool startsOver = false)
    {
        var here = Here(strand, startsOver);
        return [.. pages.Where(page => page.Page > here).Select(page => Import(page))];
    }

    // The last whole page that is here; pieces after it are written again.
    private int Here(string strand, bool startsOver)
    {
        lock (_gate)
        {
            var pages = _ends.TryGetValue(strand, out var end) && end.Last is null ? [] : _index.LastPages(Name, strand, int.MaxValue);
            var whole = startsOver ? null : pages.Find(page => !page.IsPiece);
            if (pages.Count > 0 && pages[0] != whole)
                _changed(new IndexChange(Dropped: new DroppedPages(Name, strand, whole?.Page + 1 ?? 0, [])) { IsTold = false });
            _ends[strand] = (whole, whole);
            return whole?.Page ?? -1;
        }
    }

    /// <summary>Lands a page of another machine without telling anybody.</summary>
    /// <exception cref="LandingDamagedException">It is not as it was written.</exception>
    internal LandedPage Import(StoredPage page)
    {
        var lines = page.Lines().Span;
        if (SegmentFolder.Checksum(lines) != page.Checksum)
            throw new LandingDamagedException($"page {page.Page + 1} of pull '{page.Pull}' is damaged in the shared state");
        var here = Append(
            page.Strand, lines, page.Rows, page.Next, page.IsPiece, page.Mark, page.Ended, page.Told, page.ETag, isTold: false);
        return here.Page == page.Page
            ? here
            : throw new LandingDamagedException($"page {here.Page + 1} of pull '{page.Pull}' is missing in the shared state, before page {page.Page + 1}");
    }

    /// <summary>No more is asked about a strand: it has ended.</summary>
    public void Forget(string strand)
    {
        lock (_gate)
            _ends.Remove(strand);
    }

    /// <summary>Writes the rows of a strand's next page. They count once they are committed.</summary>
    /// <param name="lines">JSON lines, each with its line break.</param>
    /// <param name="isPiece">Whether it is a piece of a stream that goes on.</param>
    /// <param name="mark">The highest value of its rows, for marks.</param>
    /// <param name="ended">Why the strand ends with it; null while it goes on.</param>
    /// <param name="told">The rows in all that the API tells.</param>
    /// <param name="etag">What the API called this state of the strand, where the page is all of it.</param>
    /// <param name="isTold">Whether other machines are told of it.</param>
    /// <returns>The page, as the index will have it.</returns>
    /// <exception cref="IOException">The disk does not take them.</exception>
    public LandedPage Append(
        string strand,
        ReadOnlySpan<byte> lines,
        int rows,
        string? next,
        bool isPiece = false,
        string? mark = null,
        string? ended = null,
        long? told = null,
        string? etag = null,
        bool isTold = true)
    {
        var checksum = SegmentFolder.Checksum(lines);
        lock (_gate)
        {
            Write(lines);
            if (!_ends.ContainsKey(strand))
                Last(strand);
            var end = _ends[strand];
            var page = new LandedPage(
                Name, strand, end.Last is { } last ? last.Page + 1 : 0, _segment, _offset, lines.Length, rows, checksum, next)
            {
                IsPiece = isPiece,
                Mark = mark,
                Ended = ended,
                Told = told,
                ETag = etag,
            };
            _offset += lines.Length;
            _ends[strand] = (page, isPiece ? end.Whole : page);
            _changed(new IndexChange(page) { IsTold = isTold });
            return page;
        }
    }

    /// <summary>Drops the pieces at the end of a strand.</summary>
    /// <returns>Its last whole page, or null.</returns>
    public LandedPage? DropPieces(string strand)
    {
        lock (_gate)
        {
            var whole = _ends.GetValueOrDefault(strand).Whole;
            _changed(new IndexChange(Dropped: new DroppedPages(Name, strand, whole?.Page + 1 ?? 0, [])));
            _ends[strand] = (whole, whole);
            return whole;
        }
    }

    /// <summary>Sets a strand aside: its pages no longer count, nor does what was made from their rows.</summary>
    /// <param name="below">The pulls with strands made from them.</param>
    internal void SetAside(string strand, IReadOnlyList<string> below) =>
        _changed(new IndexChange(Dropped: new DroppedPages(Name, strand, 0, below) { IsSetAside = true }));

    /// <summary>Looks into the index again for everything.</summary>
    internal void ForgetAll()
    {
        lock (_gate)
            _ends.Clear();
    }

    /// <summary>The rows of a page that was written, committed or not.</summary>
    /// <exception cref="LandingDamagedException">They are not there as they were.</exception>
    public byte[] Read(LandedPage page)
    {
        if (page.Length == 0)
            return [];
        var bytes = new byte[page.Length];
        using var file = _disk.Open(SegmentFolder.PathOf(_folder, page.Segment));
        if (!SegmentFolder.ReadWhole(file, bytes, page.Offset) || SegmentFolder.Checksum(bytes) != page.Checksum)
            throw new LandingDamagedException(
                $"page {page.Page + 1} of pull '{page.Pull}' is damaged in {SegmentFolder.PathOf(_folder, page.Segment)}");
        return bytes;
    }

    /// <summary>The committed pages of the pull, in order.</summary>
    public IReadOnlyList<LandedPage> Committed() => _index.PagesOf(Name);

    /// <summary>Makes everything written durable.</summary>
    internal void Flush()
    {
        IDiskFile[] files;
        IDiskFile[] done;
        lock (_gate)
        {
            files = [.. _toFlush];
            _toFlush.Clear();
            done = [.. _open.Where(file => file != _file)];
            _open.RemoveAll(file => file != _file);
        }

        foreach (var file in files)
            file.Flush();
        foreach (var file in done)
            file.Dispose();
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        lock (_gate)
        {
            foreach (var file in _open)
                file.Dispose();
            _open.Clear();
        }
    }

    // A page that could not be written is a hole: nothing may be committed after it.
    private void Write(ReadOnlySpan<byte> lines)
    {
        try
        {
            if (_offset >= _segmentSize)
            {
                _segment++;
                _offset = 0;
                _file = null;
            }

            _file ??= OpenSegment();
            _file.Write(lines, _offset);
            _toFlush.Add(_file);
        }
        catch (Exception error)
        {
            _failed(error);
            throw;
        }
    }

    private IDiskFile OpenSegment()
    {
        _disk.CreateFolder(_folder);
        var path = SegmentFolder.PathOf(_folder, _segment);
        var isNew = !_disk.Exists(path);
        var file = _disk.Open(path);
        if (isNew)
            _disk.FlushFolder(_folder);
        _open.Add(file);
        return file;
    }
}
