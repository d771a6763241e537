using System.Text.Json;
using Cursiva.Core.State;

namespace Cursiva.Core.Ledger;

/// <summary>
/// What of one job is to leave the machine, and what has left (promise 14). Each step is durable when a call returns: an entry is
/// sending before its first byte leaves, and whatever is still sending when a process looks is in doubt.
/// </summary>
/// <param name="job">Names the job in state.</param>
public sealed class LedgerBook(IState state, string job, TimeProvider clock)
{
    private const string Kind = "ledger";

    // What has left is told for this many entries; what is pending stays.
    private const int MostKept = 200;

    /// <summary>All entries, in the order of their runs.</summary>
    public async Task<IReadOnlyList<LedgerEntry>> EntriesAsync(CancellationToken cancel) =>
        [.. (await state.ListAsync(Kind, job + "/", cancel)).Select(
            document => JsonSerializer.Deserialize(document, LedgerJson.Default.LedgerEntry)!)];

    /// <summary>An entry; null where there is none of this name.</summary>
    public async Task<LedgerEntry?> FindAsync(string id, CancellationToken cancel) =>
        (await EntriesAsync(cancel)).FirstOrDefault(entry => entry.Id == id);

    /// <summary>Enters something.</summary>
    public Task AddAsync(LedgerEntry entry, CancellationToken cancel) => WriteAsync(entry, cancel);

    /// <summary>Takes an entry on to another phase, durably.</summary>
    /// <param name="said">What the other side said; null leaves what it said before.</param>
    /// <returns>The entry as it is now.</returns>
    public async Task<LedgerEntry> MoveAsync(LedgerEntry entry, LedgerPhase phase, string? said = null)
    {
        var moved = entry with
        {
            Phase = phase,
            At = clock.GetUtcNow(),
            Said = said ?? entry.Said,
            Attempts = entry.Attempts + (phase == LedgerPhase.Sending ? 1 : 0),
        };

        // What has happened is noted, also while the run is being stopped.
        await WriteAsync(moved, CancellationToken.None);
        return moved;
    }

    /// <summary>Forgets the oldest entries that need nothing more.</summary>
    public async Task PruneAsync(CancellationToken cancel)
    {
        // The newest of each kind says what has changed since.
        var entries = await EntriesAsync(cancel);
        var newest = entries.GroupBy(entry => (entry.Of, entry.About)).Select(same => same.Last()).ToHashSet();
        List<LedgerEntry> over = [.. entries.Where(entry => !entry.IsPending && !newest.Contains(entry))];
        foreach (var entry in over.Take(Math.Max(0, over.Count - MostKept)))
            await state.DeleteAsync(Kind, KeyOf(entry), cancel);
    }

    private Task WriteAsync(LedgerEntry entry, CancellationToken cancel) =>
        state.WriteAsync(Kind, KeyOf(entry), JsonSerializer.SerializeToUtf8Bytes(entry, LedgerJson.Default.LedgerEntry), cancel);

    private string KeyOf(LedgerEntry entry) => $"{job}/{entry.Run:D9}/{entry.Id}";
}
