using Cursiva.Core.Files;
using Cursiva.Core.State;

namespace Cursiva.Core.Landing;

/// <summary>
/// A landing that other machines see: whatever is committed here is committed there, and what was landed there can be brought here.
/// </summary>
/// <param name="name">Names it: its folder below the state folder.</param>
/// <param name="addAsync">Adds changes to the landing of a name.</param>
public sealed class SharedLanding(
    ILandings landings, string name, Func<string, IReadOnlyList<StoredChange>, CancellationToken, Task> addAsync)
{
    /// <summary>A landing whose pulls are filled here.</summary>
    /// <param name="name">Names it: its folder below the state folder.</param>
    public SharedLanding(ILandings landings, string name)
        : this(landings, name, landings.AddAsync)
    {
    }

    private readonly List<IndexChange> _unsure = [];

    /// <summary>Adds committed changes, and those before them of which it is not known whether they arrived.</summary>
    /// <param name="read">Reads the rows of a page again.</param>
    internal async Task AddAsync(IReadOnlyList<IndexChange> changes, Func<LandedPage, byte[]> read, CancellationToken cancel)
    {
        if (changes.Count + _unsure.Count == 0)
            return;
        var over = _unsure.Count > 0 ? Again([.. _unsure]) : [];
        _unsure.AddRange(changes);
        await addAsync(name, [.. over, .. _unsure.SelectMany(change => Stored(change, read))], cancel);
        _unsure.Clear();
    }

    // Pages that may be there already are written over.
    private static IEnumerable<StoredChange> Again(IEnumerable<IndexChange> changes) => changes
        .Select(change => change.Page)
        .OfType<LandedPage>()
        .GroupBy(page => (page.Pull, page.Strand))
        .Select(strand => new StoredDrop(strand.Key.Pull, strand.Key.Strand, strand.Min(page => page.Page), []));

    /// <summary>Drops whatever belongs to pulls.</summary>
    internal Task DropAsync(IReadOnlyList<string> pulls, CancellationToken cancel) => landings.DropAsync(name, pulls, cancel);

    /// <summary>Forgets that strands were skipped.</summary>
    internal Task ForgetSkipsAsync(CancellationToken cancel) => landings.ForgetSkipsAsync(name, cancel);

    /// <summary>
    /// Makes a folder's landing the one that is shared. Nothing is done where it is that already, or where none is shared.
    /// </summary>
    /// <param name="folder">The landing's folder on this machine; nobody has it open.</param>
    /// <exception cref="LandingDamagedException">What is shared is not as it was written.</exception>
    public async Task BringAsync(IDisk disk, string folder, TimeProvider clock, CancellationToken cancel)
    {
        if (!landings.IsShared(name))
            return;
        var sums = await landings.SumsAsync(name, cancel);
        if (disk.Exists(Path.Combine(folder, "pages.db")) && sums.SequenceEqual(Sums(disk, folder)))
            return;
        disk.DeleteFolder(folder);
        if (sums.Count == 0)
            return;
        await using var landing = new RunLanding(disk, folder, clock);
        var pulls = sums.ToDictionary(sum => sum.Pull, sum => landing.Open(sum.Pull), StringComparer.Ordinal);
        await foreach (var strand in landings.StrandsAsync(name, cancel))
            pulls[strand.Pull].Put(Landed(strand));
        var last = "";
        await foreach (var page in landings.PagesAsync(name, null, cancel))
        {
            if (page.Strand != last)
                pulls[page.Pull].Forget(last);
            last = page.Strand;
            pulls[page.Pull].Import(page);
        }

        await landing.CommitAsync(cancel);
    }

    private static List<LandingSum> Sums(IDisk disk, string folder)
    {
        using var index = new PageIndex(disk, Path.Combine(folder, "pages.db"));
        return index.Sums();
    }

    private static LandedStrand Landed(StoredStrand strand) => new(strand.Pull, strand.Strand, strand.Values, strand.Carried, strand.Way)
    {
        Skip = strand.Because is { } because ? new LandedSkip(strand.Status ?? 0, because, strand.Said ?? "", strand.Request ?? "") : null,
    };

    private static IEnumerable<StoredChange> Stored(IndexChange change, Func<LandedPage, byte[]> read)
    {
        if (change.Page is { } page)
            yield return new StoredPage(
                page.Pull, page.Strand, page.Page, page.Rows, page.Length, page.Checksum, page.Next, page.IsPiece, page.Mark, page.Ended, page.Told, page.ETag, () => read(page));
        if (change.Strand is { } begun)
            yield return new StoredStrand(
                begun.Pull, begun.Strand, begun.Values, begun.Carried, begun.Way, begun.Skip?.Status, begun.Skip?.Because, begun.Skip?.Said, begun.Skip?.Request);
        if (change.Dropped is { } dropped)
            yield return new StoredDrop(
                dropped.Pull, dropped.Strand, dropped.FromPage, [.. dropped.Below.Select(
                    below => (below, dropped.FirstBelow, dropped.FirstAfter))]);
    }
}
