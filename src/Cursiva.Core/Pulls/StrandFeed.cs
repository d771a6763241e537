using System.IO.Hashing;
using System.Text;
using System.Threading.Channels;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Makes the strands of a pull from rows as they land: those of an earlier pull, and those of the pull itself that open further
/// listings. Only places of pages are kept in memory; rows are read again when their turn comes.
/// </summary>
internal sealed class StrandFeed : IDisposable
{
    private readonly PullContext _context;
    private readonly IReadOnlyList<KeyValuePair<string, JsonPointer>> _names;
    private readonly IReadOnlyList<KeyValuePair<string, JsonPointer>> _ownNames;
    private readonly Channel<IEnumerable<Strand>> _ready = Channel.CreateUnbounded<IEnumerable<Strand>>();
    private readonly Dictionary<string, List<(string Key, StrandValues Values)>> _batches = new(StringComparer.Ordinal);
    private readonly SemaphoreSlim _turn = new(1, 1);
    private readonly HashSet<string> _found = new(StringComparer.Ordinal);
    private IEnumerator<Strand>? _current;
    private bool _made;
    private long _pending = 1;

    /// <param name="parent">The pull whose rows make the strands; null when there is one strand.</param>
    /// <param name="needed">Every name that is used anywhere in the job.</param>
    public StrandFeed(PullContext context, Pull? parent, IEnumerable<string> needed)
    {
        _context = context;
        var head = context.Pull.Per?.Name;
        _names = head is null ? [] : [.. Places(needed, head, parent)];
        _ownNames = context.Pull.Opens is null ? [] : [.. Places(needed, context.Pull.Name, context.Pull)];
    }

    /// <summary>Begins with the one strand of a pull that is not repeated, and whose rows open listings.</summary>
    public void AddOnly()
    {
        Interlocked.Increment(ref _pending);
        _current = InWindows(_context.Pull, Strand.Only).GetEnumerator();
    }

    /// <summary>Adds a page whose rows make strands.</summary>
    public void Add(PullLanding source, Strand strand, LandedPage page)
    {
        if (page.Rows == 0 && !EndsBatch(page))
            return;
        Interlocked.Increment(ref _pending);
        _ready.Writer.TryWrite(Expand(source, strand, page));
    }

    /// <summary>Adds the halves of a window for which the API gives no more rows than it has brought.</summary>
    /// <exception cref="RefusedException">It cannot be made any shorter.</exception>
    public void Halve(Strand strand)
    {
        var (from, to) = (strand.Values.Text(Window.FromName)!, strand.Values.Text(Window.ToName)!);
        if (_context.Pull.Window!.Halves(from, to) is not { } halves)
        {
            throw new RefusedException(new Refusal(
                Outcome.ApiFailed,
                $"pull '{_context.Pull.Name}' cannot be complete: from {from} to {to} there are at least {_context.Pull.Window.AtMost:N0} rows, the most that the API returns")
            {
                Cause = "that many rows have the same time, or at-most: is lower than the API's limit",
                NextStep = "repeat the pull for something that divides the rows further (per:), or correct at-most: in window:",
            });
        }

        Interlocked.Increment(ref _pending);
        _ready.Writer.TryWrite(halves.Select((half, place) => OfWindow(strand, half, place)));
    }

    /// <summary>A strand for each window of a pull that has windows; otherwise the strand itself.</summary>
    public static IEnumerable<Strand> InWindows(Pull pull, Strand strand) =>
        pull.Window is null ? [strand] : pull.Window.Stretches().Select((stretch, place) => OfWindow(strand, stretch, place));

    private static Strand OfWindow(Strand strand, (string From, string To) stretch, int place) =>
        strand with
        {
            Key = StrandKey.Of(strand.Key, 0, place),
            Values = strand.Values.With(Window.FromName, stretch.From).With(Window.ToName, stretch.To),
        };

    /// <summary>No pages of an earlier pull will come any more.</summary>
    public void ParentEnded() => Done();

    /// <summary>A strand that <see cref="NextAsync"/> gave has ended.</summary>
    public void StrandEnded() => Done();

    /// <summary>The next strand; null when there will be none any more.</summary>
    public async Task<Strand?> NextAsync(CancellationToken cancel)
    {
        await _turn.WaitAsync(cancel);
        try
        {
            while (true)
            {
                if (_current?.MoveNext() == true)
                {
                    Interlocked.Increment(ref _pending);
                    return _current.Current;
                }

                if (_current is not null)
                {
                    _current.Dispose();
                    _current = null;
                    Done();
                }

                if (!await _ready.Reader.WaitToReadAsync(cancel))
                    return null;
                if (_ready.Reader.TryRead(out var strands))
                    _current = strands.GetEnumerator();
            }
        }
        finally
        {
            _turn.Release();
        }
    }

    public void Dispose() => _turn.Dispose();

    /// <summary>Looks at what was carried once all strands are made.</summary>
    /// <exception cref="RefusedException">A place of <c>carry:</c> was in no row.</exception>
    public void CheckCarried()
    {
        if (!_made || _context.Pull.Carry.FirstOrDefault(carried => !_found.Contains(carried.Key)) is not { Value: { } at } missing)
            return;
        throw new RefusedException(new Refusal(
            Outcome.ApiFailed,
            $"pull '{_context.Pull.Name}' carries '{missing.Key}' from {at.Text}, but no row that it is repeated for has anything there")
        {
            Cause = "the place is misspelt, or the rows have it under another name",
            NextStep = _context.Pull.Per is { List: not null }
                ? $"for a list of texts the place is /{PerRows.TextField}; correct carry: of pull '{_context.Pull.Name}'"
                : $"compare carry: of pull '{_context.Pull.Name}' with the rows, and run again",
        });
    }

    private void Done()
    {
        if (Interlocked.Decrement(ref _pending) == 0)
            _ready.Writer.TryComplete();
    }

    private IEnumerable<Strand> Expand(PullLanding source, Strand strand, LandedPage page)
    {
        var lines = source.Read(page);
        var own = source == _context.Landing;
        var ended = Ended(strand, page, own);
        for (int start = 0, row = 0; start < lines.Length; row++)
        {
            var end = Array.IndexOf(lines, (byte)'\n', start);
            if (ended.TryGetValue(StrandKey.Of(strand.Key, page.Page, row), out var skipped))
            {
                _context.Progress.StrandBegan();
                _context.Progress.StrandEnded(skipped);
                start = end + 1;
                continue;
            }

            var line = lines.AsSpan(start, end - start);
            var made = own ? Opened(strand, page, row, line) : _context.Pull.Per!.Batch > 1 ? Batched(strand, page, row, line) : Repeated(
                strand, page, row, line);
            start = end + 1;
            foreach (var window in made is null ? [] : InWindows(_context.Pull, made))
                yield return window;
        }

        if (!own && EndsBatch(page) && TakeBatch(strand) is { } rest)
        {
            foreach (var window in InWindows(_context.Pull, rest))
                yield return window;
        }
    }

    // Of a run that is resumed most strands may need nothing more: they are looked up for a whole page of rows at once. What a row
    // carries is looked at all the same, and so are listings that others are made from.
    private IReadOnlyDictionary<string, bool> Ended(Strand strand, LandedPage page, bool own) =>
        own
            || _context.Pull.Window is not null
            || _context.Pull.Opens is not null
            || _context.Pull.Carry.Count > 0
            || _context.Pull.Per!.Batch > 1
            ? new Dictionary<string, bool>()
            : _context.Landing.Ended(StrandKey.Of(strand.Key, page.Page, 0), StrandKey.Of(strand.Key, page.Page + 1, 0));

    private bool EndsBatch(LandedPage page) => _context.Pull.Per is { Batch: > 1 } && page is { Next: null, IsPiece: false };

    // Rows of one strand are gathered over its pages, so that batches are the same whenever they are made.
    private Strand? Batched(Strand parent, LandedPage page, int row, ReadOnlySpan<byte> line)
    {
        if (!_batches.TryGetValue(parent.Key, out var batch))
            _batches[parent.Key] = batch = [];
        batch.Add((StrandKey.Of(parent.Key, page.Page, row), parent.Values.With(line, _names)));
        return batch.Count < _context.Pull.Per!.Batch ? null : TakeBatch(parent);
    }

    private Strand? TakeBatch(Strand parent) => _batches.Remove(parent.Key, out var batch)
        ? new Strand(batch[0].Key, StrandValues.Of([.. batch.Select(row => row.Values)], _names.Select(name => name.Key)), "{}", false, "")
        : null;

    private Strand Repeated(Strand parent, LandedPage page, int row, ReadOnlySpan<byte> line)
    {
        var carried = new List<KeyValuePair<string, string>>();
        _made = true;
        foreach (var (name, at) in _context.Pull.Carry)
        {
            // The row itself, and what its own pull took along.
            var raw = JsonFind.Raw(line, at);
            if (raw.IsEmpty)
                raw = JsonFind.Raw(Encoding.UTF8.GetBytes(parent.Carried), at);
            if (!raw.IsEmpty)
                _found.Add(name);
            carried.Add(new(name, raw.IsEmpty ? "null" : Encoding.UTF8.GetString(raw)));
        }

        return new Strand(
            StrandKey.Of(parent.Key, page.Page, row), parent.Values.With(line, _names), StrandValues.Write(carried), false, "");
    }

    private Strand? Opened(Strand strand, LandedPage page, int row, ReadOnlySpan<byte> line)
    {
        foreach (var (at, value) in _context.Pull.Opens!.When)
        {
            if (!JsonFind.Holds(line, at, value))
                return null;
        }

        var values = strand.Values.With(line, _ownNames);
        var digest = XxHash64.HashToUInt64(Encoding.UTF8.GetBytes(values.ToJson())).ToString(
            "x16", System.Globalization.CultureInfo.InvariantCulture);

        // Only its own ancestors: a listing that is reached by two ways is listed twice, whichever of them comes first.
        for (var at = 0; at < strand.Way.Length; at += digest.Length)
        {
            if (strand.Way.AsSpan(at, digest.Length).SequenceEqual(digest))
            {
                _context.Warn($"pull '{_context.Pull.Name}' has a circle: {values} leads back to itself, and was not opened again");
                return null;
            }
        }

        if (strand.Way.Length / digest.Length >= _context.Pull.Opens.Deepest)
        {
            _context.Warn(
                $"pull '{_context.Pull.Name}' is deeper than {_context.Pull.Opens.Deepest} levels; deeper levels were not opened (deepest: in opens:)");
            return null;
        }

        return new Strand(StrandKey.Of(strand.Key, page.Page, row), values, strand.Carried, true, strand.Way + digest);
    }

    // A name is the head alone for a list of texts, a declared column, or a path of fields.
    private static IEnumerable<KeyValuePair<string, JsonPointer>> Places(IEnumerable<string> needed, string head, Pull? source)
    {
        foreach (var name in needed.Where(name => name.Split('.')[0] == head).Distinct())
        {
            var rest = name == head ? PerRows.TextField : name[(head.Length + 1)..];
            var declared = source?.Columns.FirstOrDefault(column => column.Name == rest)?.At;
            yield return new(name, declared ?? JsonPointer.ToFields(rest.Split('.')));
        }
    }
}
