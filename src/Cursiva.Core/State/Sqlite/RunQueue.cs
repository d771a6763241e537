using System.Text.Json;

namespace Cursiva.Core.State;

/// <summary>
/// The strands of a run that several processes of one machine work on, in the run's file: one transaction at a time writes to it.
/// </summary>
/// <remarks>Whoever hands strands out holds the job's lock, which the kernel takes from nobody who lives.</remarks>
internal sealed class RunQueue(RunFiles files, TimeProvider clock) : IStrandQueue
{
    private const string Here = "landing = $landing and pull = $pull and strand = $strand";

    /// <inheritdoc/>
    public TimeSpan Lease { get; } = TimeSpan.FromSeconds(30);

    /// <inheritdoc/>
    public Task OfferAsync(string landing, IReadOnlyList<(StoredStrand Strand, bool IsAnew)> strands, CancellationToken cancel) =>
        WriteAsync(
        files.Make(landing),
        file =>
        {
            foreach (var (strand, isAnew) in strands)
            {
                Run(
                    file,
                    """insert into strands (landing, pull, strand, "values", carried, way) values ($landing, $pull, $strand, $values, $carried, $way) on conflict do nothing""",
                    ("$landing", landing), ("$pull", strand.Pull), ("$strand", strand.Strand), ("$values", strand.Values), ("$carried", strand.Carried), ("$way", strand.Way));
                Run(
                    file,
                    "insert into queue (landing, pull, strand, anew) values ($landing, $pull, $strand, $anew) on conflict do nothing",
                    ("$landing", landing), ("$pull", strand.Pull), ("$strand", strand.Strand), ("$anew", isAnew));
            }

            return true;
        },
        cancel);

    /// <inheritdoc/>
    public Task<IReadOnlyList<TakenStrand>> TakeAsync(string landing, string pull, int most, Guid holder, CancellationToken cancel) =>
        WriteAsync<IReadOnlyList<TakenStrand>>(
        files.Find(landing),
        file =>
        {
            var (now, free) = (Now, new List<(StoredStrand Strand, bool IsAnew, bool HasPages)>());
            using (var command = file.Command(
                """
                select q.strand, s."values", s.carried, s.way, q.anew,
                    exists (select 1 from pages p where p.landing = q.landing and p.pull = q.pull and p.strand = q.strand)
                from queue q join strands s on s.landing = q.landing and s.pull = q.pull and s.strand = q.strand
                where q.landing = $landing and q.pull = $pull and q.result is null and (q.until is null or q.until <= $now) order by q.strand limit $most
                """,
                ("$landing", landing), ("$pull", pull), ("$now", now), ("$most", most)))
            using (var rows = command.ExecuteReader())
            {
                while (rows.Read())
                    free.Add(
                        (new StoredStrand(
                            pull,
                            rows.GetString(0),
                            rows.GetString(1),
                            rows.GetString(2),
                            rows.GetString(3),
                            null,
                            null,
                            null,
                            null), rows.GetBoolean(4), rows.GetBoolean(5)));
            }

            return [.. free.Select(one =>
            {
                var fence = NextFence(file);
                Run(
                    file,
                    $"update queue set holder = $holder, fence = $fence, until = $until where {Here}",
                    ("$holder", holder.ToString()), ("$fence", fence), ("$until", now + (long)Lease.TotalMilliseconds), ("$landing", landing), ("$pull", pull), ("$strand", one.Strand.Strand));
                return new TakenStrand(one.Strand, fence, one.IsAnew, one.HasPages);
            })];
        },
        cancel,
        []);

    /// <inheritdoc/>
    public Task<IReadOnlySet<(string Pull, string Strand)>> RenewAsync(
        string landing, IReadOnlyList<KeyValuePair<(string Pull, string Strand), long>> fences, CancellationToken cancel) =>
            WriteAsync<IReadOnlySet<(string Pull, string Strand)>>(
        files.Find(landing),
        file => fences.Where(strand => Run(
            file,
            $"update queue set until = $until where {Here} and fence = $fence and result is null",
            ("$until", Now + (long)Lease.TotalMilliseconds), ("$landing", landing), ("$pull", strand.Key.Pull), ("$strand", strand.Key.Strand), ("$fence", strand.Value)) > 0)
            .Select(strand => strand.Key).ToHashSet(),
        cancel,
        new HashSet<(string, string)>());

    /// <inheritdoc/>
    public Task FinishAsync(string landing, IReadOnlyList<FinishedStrand> strands, CancellationToken cancel) => EachAsync(
        landing,
        $"update queue set result = $result where {Here} and fence = $fence",
        strands.Select(
            strand => new (string, object)[] { ("$pull", strand.Pull), ("$strand", strand.Strand), ("$fence", strand.Fence), ("$result", strand.Result) }),
        cancel);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<FinishedStrand>> FinishedAsync(string landing, CancellationToken cancel)
    {
        if (files.Find(landing) is not { } file)
            return [];
        return await file.AloneAsync(() =>
        {
            using var command = file.Command(
                "select pull, strand, fence, result from queue where landing = $landing and result is not null limit 1000",
                ("$landing", landing));
            using var rows = command.ExecuteReader();
            var finished = new List<FinishedStrand>();
            while (rows.Read())
                finished.Add(new FinishedStrand(rows.GetString(0), rows.GetString(1), rows.GetInt64(2), rows.GetString(3)));
            return finished;
        }, cancel);
    }

    /// <inheritdoc/>
    public Task AcceptAsync(string landing, IReadOnlyList<FinishedStrand> strands, CancellationToken cancel) => EachAsync(
        landing, $"delete from queue where {Here}", strands.Select(
            strand => new (string, object)[] { ("$pull", strand.Pull), ("$strand", strand.Strand) }), cancel);

    /// <inheritdoc/>
    public Task WithdrawAsync(string landing, string pull, string from, string before, CancellationToken cancel) => EachAsync(
        landing, "delete from queue where landing = $landing and pull = $pull and strand >= $from and strand < $before", [
        [
            ("$pull", pull),
            ("$from", from),
            ("$before", before),
        ]], cancel);

    /// <inheritdoc/>
    public Task ClearAsync(string landing, CancellationToken cancel)
    {
        files.Make(landing);
        return EachAsync(landing, "delete from queue where landing = $landing", [[]], cancel);
    }

    /// <inheritdoc/>
    public async Task GiveBackAsync(Guid holder, CancellationToken cancel)
    {
        foreach (var opened in files.Opened.ToList())
            await WriteAsync(
                opened,
                file => Run(
                    file,
                    "update queue set until = null, holder = null, fence = $fence where holder = $holder and result is null",
                    ("$fence", NextFence(file)), ("$holder", holder.ToString())),
                cancel);
    }

    /// <inheritdoc/>
    public Task<IReadOnlyList<(string Pull, string Strand)>> AddAsync(
        string landing,
        IReadOnlyList<StoredChange> changes,
        IReadOnlyDictionary<(string Pull, string Strand), long> fences,
        CancellationToken cancel)
    {
        List<(string Pull, string Strand)> places = [.. changes.Select(change => change.Place()).Distinct()];
        return WriteAsync<IReadOnlyList<(string Pull, string Strand)>>(
            files.Find(landing),
            file =>
            {
                var held = places.Where(place => Has(file, landing, place, fences.GetValueOrDefault(place, -1))).ToHashSet();
                StoredPages.Apply(file, landing, [.. changes.Where(change => held.Contains(change.Place()))]);
                return [.. places.Where(place => !held.Contains(place))];
            },
            cancel,
            places);
    }

    private long Now => clock.GetUtcNow().ToUnixTimeMilliseconds();

    // No two holders of a strand have the same fence, not even of one that was withdrawn and offered again.
    private static long NextFence(OneConnection file)
    {
        using var command = file.Command("update fences set latest = latest + 1 returning latest");
        return (long)command.ExecuteScalar()!;
    }

    private static bool Has(OneConnection file, string landing, (string Pull, string Strand) place, long fence)
    {
        using var command = file.Command(
            $"select 1 from queue where {Here} and fence = $fence and result is null", ("$landing", landing), ("$pull", place.Pull), ("$strand", place.Strand), ("$fence", fence));
        return command.ExecuteScalar() is not null;
    }

    private Task EachAsync(string landing, string sql, IEnumerable<(string Name, object Value)[]> values, CancellationToken cancel) =>
        WriteAsync(
        files.Find(landing),
        file => values.Sum(some => Run(file, sql, [("$landing", landing), .. some])),
        cancel,
        0);

    private static int Run(OneConnection file, string sql, params ReadOnlySpan<(string Name, object Value)> values)
    {
        using var command = file.Command(sql, values);
        return command.ExecuteNonQuery();
    }

    // Where there is no such file, the run is over.
    private static async Task<T> WriteAsync<T>(
        OneConnection? file, Func<OneConnection, T> write, CancellationToken cancel, T otherwise = default!) => file is null
        ? otherwise
        : await file.AloneAsync(
            () =>
            {
                using var transaction = file.Connection.BeginTransaction(deferred: false);
                var result = write(file);
                transaction.Commit();
                return result;
            },
            cancel);
}
