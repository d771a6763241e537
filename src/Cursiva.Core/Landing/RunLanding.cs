using Cursiva.Core.Files;
using Cursiva.Core.State;

namespace Cursiva.Core.Landing;

/// <summary>
/// The landing of one run: a folder with the segments of each pull and one page index. Pages are committed in groups, at most
/// <see cref="GroupTime"/> after they were written: the segments are flushed first, then the index.
/// </summary>
public sealed class RunLanding : IAsyncDisposable
{
    /// <summary>The version of what is on disk; a landing of another version is not resumed.</summary>
    public const int Format = 4;

    /// <summary>How long a written page may wait for its commit.</summary>
    public static readonly TimeSpan GroupTime = TimeSpan.FromMilliseconds(250);

    private readonly IDisk _disk;
    private readonly string _folder;
    private readonly long _segmentSize;
    private readonly PageIndex _index;
    private readonly StrandIndex _strands;
    private readonly TimeProvider _clock;
    private readonly CancellationTokenSource _closing = new();
    private readonly SemaphoreSlim _committing = new(1, 1);
    private readonly Lock _gate = new();
    private readonly List<PullLanding> _pulls = [];
    private readonly Task _committer;
    private readonly SharedLanding? _shared;
    private List<IndexChange> _changes = [];
    private Exception? _failure;

    /// <summary>Opens the landing in a folder, and creates it when it is not there.</summary>
    /// <param name="segmentSize">A segment that has reached this many bytes is followed by the next one.</param>
    /// <param name="shared">Tells other machines what is committed; null where nobody else needs it.</param>
    public RunLanding(IDisk disk, string folder, TimeProvider clock, long segmentSize = 256 * 1024 * 1024, SharedLanding? shared = null)
    {
        _shared = shared;
        _disk = disk;
        _folder = folder;
        _segmentSize = segmentSize;
        _clock = clock;
        disk.CreateFolder(folder);
        _index = new PageIndex(disk, Path.Combine(folder, "pages.db"));
        _strands = _index.Strands;
        disk.FlushFolder(folder);
        _committer = CommitNowAndThenAsync();
    }

    /// <summary>The pages of a pull that are all of their strand and have an ETag, from a landing that nobody writes.</summary>
    /// <param name="most">Most of them.</param>
    public static TaggedPages TaggedPages(IDisk disk, string folder, string pull, int most)
    {
        using var index = new PageIndex(disk, Path.Combine(folder, "pages.db"));
        return new TaggedPages(disk, Path.Combine(folder, pull), index.TaggedOf(pull, most));
    }

    /// <summary>Opens a pull for adding pages, behind what was committed of it; everything else on disk is cut off.</summary>
    /// <param name="tells">Whether other machines are told what is added here; false where it is they who tell.</param>
    /// <exception cref="LandingDamagedException">What was committed is not on disk as it was.</exception>
    public PullLanding Open(string pull, bool tells = true)
    {
        var committed = _index.PlacesOf(pull, withEmpty: true);
        SegmentFolder.Recover(_disk, SegmentFolderOf(pull), pull, committed);
        var landing = new PullLanding(
            _disk,
            SegmentFolderOf(pull),
            pull,
            _index,
            committed,
            _segmentSize,
            change => Changed(tells || change.Dropped is { IsSetAside: true } ? change : change with { IsTold = false }),
            Failed);
        lock (_gate)
        {
            foreach (var before in _pulls.Where(other => other.Name == pull))
                before.Dispose();
            _pulls.RemoveAll(other => other.Name == pull);
            _pulls.Add(landing);
        }

        return landing;
    }

    /// <summary>The committed rows of a pull, in order.</summary>
    /// <param name="without">The values of strands whose rows do not count. Those of strands made from them do: each has a token of its
    /// own.</param>
    public LandedRows Read(string pull, IReadOnlySet<string>? without = null) =>
        new(_disk, SegmentFolderOf(pull), pull, Counting(pull, without ?? new HashSet<string>()), () => _strands.CarriedOf(pull));

    /// <summary>Bytes of a pull's committed rows.</summary>
    public long BytesOf(string pull) => _index.BytesOf(pull);

    /// <summary>The strands of a pull, in order, those that were skipped included. Read as they are asked for.</summary>
    public IEnumerable<LandedStrand> Strands(string pull) => _strands.Of(pull, onlySkipped: false);

    /// <summary>The strands of a pull that were skipped, in order. Read as they are asked for.</summary>
    public IEnumerable<LandedStrand> Skipped(string pull) => _strands.Of(pull, onlySkipped: true);

    /// <summary>Why strands of a pull were skipped, in their order.</summary>
    public IReadOnlyList<SkipReason> SkipReasons(string pull) => _strands.ReasonsOf(pull);

    /// <summary>How many strands of a pull were begun.</summary>
    public long StrandCount(string pull) => _strands.Count(pull);

    /// <summary>How the strands of a pull ended, alike ones together.</summary>
    public IReadOnlyList<StrandEnds> Ends(string pull) => _index.EndsOf(pull);

    /// <summary>The pages of a pull that are committed, and their rows.</summary>
    public (long Pages, long Rows) CountOf(string pull) => _index.CountOf(pull);

    /// <summary>The marks of a pull's pages, by strand, in the order of its pages.</summary>
    public IReadOnlyList<(string Strand, string Mark)> Marks(string pull) => _index.MarksOf(pull);

    /// <summary>Drops, durably, whatever belongs to other pulls than these: they have changed.</summary>
    public async Task KeepOnlyAsync(IReadOnlySet<string> pulls, CancellationToken cancel)
    {
        if (_index.KeepOnly(pulls) is { Count: > 0 } dropped && _shared is not null)
            await _shared.DropAsync(dropped, cancel);
    }

    /// <summary>Forgets that strands were skipped, so that they are tried again.</summary>
    public async Task ForgetSkipsAsync(CancellationToken cancel)
    {
        _strands.ForgetSkips();
        if (_shared is not null)
            await _shared.ForgetSkipsAsync(cancel);
    }

    /// <summary>Sets a strand aside, durably: its pages no longer count, nor does what was made from their rows.</summary>
    /// <param name="below">The pulls with strands made from them.</param>
    public async Task SetAsideAsync(PullLanding pull, string strand, IReadOnlyList<string> below)
    {
        pull.SetAside(strand, below);
        await CommitAsync(CancellationToken.None);
        lock (_gate)
            _pulls.ForEach(other => other.ForgetAll());
    }

    /// <summary>Makes everything written so far durable and part of the landing.</summary>
    /// <param name="share">How long other machines are told of it; null for as long as the whole may take.</param>
    public async Task CommitAsync(CancellationToken cancel, CancellationToken? share = null)
    {
        await _committing.WaitAsync(cancel);
        try
        {
            List<IndexChange> changes;
            PullLanding[] pulls;
            lock (_gate)
            {
                // After a failed flush nobody knows what of a file is on disk: nothing more of this landing is committed (promise 16).
                if (_failure is not null)
                    throw Broken(_failure);
                (changes, _changes) = (_changes, []);
                pulls = [.. _pulls];
            }

            if (changes.Count == 0)
                return;
            try
            {
                // The order that promise 1 rests on: bytes first, then the index that vouches for them.
                foreach (var pull in pulls)
                    pull.Flush();
                _index.Apply(changes);
                if (_shared is not null)
                    await _shared.AddAsync(
                        [.. changes.Where(change => change.IsTold)],
                        page => pulls.First(pull => pull.Name == page.Pull).Read(page),
                        share ?? cancel);
            }
            catch (OperationCanceledException)
            {
                throw; // What is here and not there yet goes with the next commit.
            }
            catch (Exception error)
            {
                Failed(error);
                throw;
            }
        }
        finally
        {
            _committing.Release();
        }
    }

    /// <summary>Stops committing and closes the files. What was not committed is not part of the landing.</summary>
    public async ValueTask DisposeAsync()
    {
        await _closing.CancelAsync();
        await _committer;
        foreach (var pull in _pulls)
            pull.Dispose();
        _index.Dispose();
        _closing.Dispose();
        _committing.Dispose();
    }

    private List<LandedPlace> Counting(string pull, IReadOnlySet<string> without)
    {
        var pages = _index.PlacesOf(pull, withEmpty: false);
        if (without.Count == 0)
            return pages;
        var strands = Strands(pull).Where(strand => without.Contains(strand.Values)).Select(strand => strand.Strand).ToHashSet(
            StringComparer.Ordinal);
        if (without.Contains(LandedStrand.NoValues))
            strands.Add(StrandKey.Only);
        return pages.FindAll(page => !strands.Contains(page.Strand));
    }

    private string SegmentFolderOf(string pull) => Path.Combine(_folder, pull);

    private void Changed(IndexChange change)
    {
        lock (_gate)
        {
            // What went wrong in the background is told to whoever writes next.
            if (_failure is not null)
                throw Broken(_failure);
            _changes.Add(change);
        }
    }

    private void Failed(Exception error)
    {
        lock (_gate)
            _failure ??= error;
    }

    private static IOException Broken(Exception failure) => failure is StateAwayException or LeaseLostException
        ? (IOException)failure
        : new IOException("the landing can no longer be written: " + failure.Message, failure);

    private async Task CommitNowAndThenAsync()
    {
        try
        {
            while (true)
            {
                await Task.Delay(GroupTime, _clock, _closing.Token).ConfigureAwait(false);
                await CommitAsync(_closing.Token).ConfigureAwait(false);
            }
        }
        catch (OperationCanceledException)
        {
            // Closing.
        }
        catch (Exception error)
        {
            Failed(error);
        }
    }
}
