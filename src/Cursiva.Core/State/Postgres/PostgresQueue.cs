using Npgsql;

namespace Cursiva.Core.State;

/// <summary>Strands in a PostgreSQL table: whoever is free takes those that nobody has locked.</summary>
/// <param name="under">The lease that whoever hands strands out has to hold; null for those who only take them.</param>
internal sealed class PostgresQueue(PostgresLink link, PostgresLandings landings, TimeSpan lease, ILease? under) : IStrandQueue
{
    private const string LandingIs = "landing = (select id from cursiva.landings where name = $1)";

    /// <inheritdoc/>
    public TimeSpan Lease => lease;

    /// <inheritdoc/>
    public async Task OfferAsync(string landing, IReadOnlyList<(StoredStrand Strand, bool IsAnew)> strands, CancellationToken cancel)
    {
        var id = await landings.IdAsync(landing, cancel);
        await AsHolderAsync(
            """
            with offered as (select * from unnest($2::text[], $3::text[], $4::text[], $5::text[], $6::text[], $7::boolean[]) o (pull, strand, "values", carried, way, anew)),
            begun as (insert into cursiva.strands (landing, pull, strand, "values", carried, way)
                select $1, pull, strand, "values", carried, way from offered on conflict do nothing)
            insert into cursiva.queue (landing, pull, strand, anew) select $1, pull, strand, anew from offered on conflict do nothing
            """,
            cancel,
            id,
            strands.Select(offered => offered.Strand.Pull).ToArray(),
            strands.Select(offered => offered.Strand.Strand).ToArray(),
            strands.Select(offered => offered.Strand.Values).ToArray(),
            strands.Select(offered => offered.Strand.Carried).ToArray(),
            strands.Select(offered => offered.Strand.Way).ToArray(),
            strands.Select(offered => offered.IsAnew).ToArray());
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<TakenStrand>> TakeAsync(string landing, string pull, int most, Guid holder, CancellationToken cancel) =>
        await link.RowsAsync(
            """
            with one as (select id from cursiva.landings where name = $1),
            free as (
                select q.landing, q.pull, q.strand from cursiva.queue q, one
                where q.landing = one.id and q.pull = $2 and q.result is null and (q.until is null or q.until <= clock_timestamp())
                order by q.strand limit $3 for update of q skip locked),
            taken as (
                update cursiva.queue q set holder = $4, fence = nextval('cursiva.fences'), until = clock_timestamp() + $5 from free f
                where q.landing = f.landing and q.pull = f.pull and q.strand = f.strand
                returning q.landing, q.pull, q.strand, q.fence, q.anew)
            select t.pull, t.strand, s."values", s.carried, s.way, t.fence, t.anew,
                exists (select from cursiva.pages p where p.landing = t.landing and p.pull = t.pull and p.strand = t.strand)
            from taken t join cursiva.strands s on s.landing = t.landing and s.pull = t.pull and s.strand = t.strand order by t.strand
            """,
            rows => new TakenStrand(
                new StoredStrand(
                    rows.GetString(0), rows.GetString(1), rows.GetString(2), rows.GetString(3), rows.GetString(4), null, null, null, null),
                rows.GetInt64(5),
                rows.GetBoolean(6),
                rows.GetBoolean(7)),
            cancel,
            landing,
            pull,
            most,
            holder,
            lease);

    /// <inheritdoc/>
    public async Task<IReadOnlySet<(string Pull, string Strand)>> RenewAsync(
        string landing, IReadOnlyList<KeyValuePair<(string Pull, string Strand), long>> fences, CancellationToken cancel)
    {
        var held = await link.RowsAsync(
            """
            update cursiva.queue q set until = clock_timestamp() + $5 from unnest($2::text[], $3::text[], $4::bigint[]) f (pull, strand, fence)
            where q.landing = (select id from cursiva.landings where name = $1) and q.pull = f.pull and q.strand = f.strand and q.fence = f.fence
                and q.result is null
            returning q.pull, q.strand
            """,
            rows => (rows.GetString(0), rows.GetString(1)),
            cancel,
            landing,
            fences.Select(strand => strand.Key.Pull).ToArray(),
            fences.Select(strand => strand.Key.Strand).ToArray(),
            fences.Select(strand => strand.Value).ToArray(),
            lease);
        return held.ToHashSet();
    }

    /// <inheritdoc/>
    public Task FinishAsync(string landing, IReadOnlyList<FinishedStrand> strands, CancellationToken cancel) => link.ExecuteAsync(
        """
        update cursiva.queue q set result = f.result from unnest($2::text[], $3::text[], $4::bigint[], $5::text[]) f (pull, strand, fence, result)
        where q.landing = (select id from cursiva.landings where name = $1) and q.pull = f.pull and q.strand = f.strand and q.fence = f.fence
        """,
        cancel,
        landing,
        strands.Select(strand => strand.Pull).ToArray(),
        strands.Select(strand => strand.Strand).ToArray(),
        strands.Select(strand => strand.Fence).ToArray(),
        strands.Select(strand => strand.Result).ToArray());

    /// <inheritdoc/>
    public async Task<IReadOnlyList<FinishedStrand>> FinishedAsync(string landing, CancellationToken cancel) => await link.RowsAsync(
        $"select pull, strand, fence, result from cursiva.queue where {LandingIs} and result is not null limit 1000",
        rows => new FinishedStrand(rows.GetString(0), rows.GetString(1), rows.GetInt64(2), rows.GetString(3)),
        cancel,
        landing);

    /// <inheritdoc/>
    public Task AcceptAsync(string landing, IReadOnlyList<FinishedStrand> strands, CancellationToken cancel) => AsHolderAsync(
        """
        delete from cursiva.queue q using unnest($2::text[], $3::text[]) f (pull, strand)
        where q.landing = (select id from cursiva.landings where name = $1) and q.pull = f.pull and q.strand = f.strand
        """,
        cancel,
        landing,
        strands.Select(strand => strand.Pull).ToArray(),
        strands.Select(strand => strand.Strand).ToArray());

    /// <inheritdoc/>
    public Task WithdrawAsync(string landing, string pull, string from, string before, CancellationToken cancel) => AsHolderAsync(
        $"delete from cursiva.queue where {LandingIs} and pull = $2 and strand >= $3 and strand < $4", cancel, landing, pull, from, before);

    /// <inheritdoc/>
    public Task ClearAsync(string landing, CancellationToken cancel) =>
        AsHolderAsync($"delete from cursiva.queue where {LandingIs}", cancel, landing);

    /// <inheritdoc/>
    public Task GiveBackAsync(Guid holder, CancellationToken cancel) => link.ExecuteAsync(
        "update cursiva.queue set until = null, holder = null, fence = nextval('cursiva.fences') where holder = $1 and result is null", cancel, holder);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<(string Pull, string Strand)>> AddAsync(
        string landing,
        IReadOnlyList<StoredChange> changes,
        IReadOnlyDictionary<(string Pull, string Strand), long> fences,
        CancellationToken cancel)
    {
        IReadOnlyList<(string Pull, string Strand)> lost = [];
        await landings.WriteAsync(
            landing,
            async (connection, id) =>
            {
                var held = await HeldAsync(connection, id, changes.Select(change => change.Place()).Distinct().ToList(), fences, cancel);
                lost = [.. changes.Select(change => change.Place()).Distinct().Where(place => !held.Contains(place))];
                await PostgresLandings.ApplyAsync(connection, id, [.. changes.Where(change => held.Contains(change.Place()))], cancel);
            },
            cancel);
        return lost;
    }

    // One that was asleep takes nothing back and accepts nothing that is another one's by now.
    private async Task AsHolderAsync(string sql, CancellationToken cancel, params object[] values)
    {
        if (under is null)
        {
            await link.ExecuteAsync(sql, cancel, values);
            return;
        }

        await link.DoAsync(
            async connection =>
            {
                await using var transaction = await connection.BeginTransactionAsync(cancel);
                await using var held = PostgresLink.Command(
                    connection, "select 1 from cursiva.leases where name = $1 and fence = $2 for share", under.Name, under.Fence);
                if (await held.ExecuteScalarAsync(cancel) is null)
                    throw new LeaseLostException(under.Name);
                await using var command = PostgresLink.Command(connection, sql, values);
                await command.ExecuteNonQueryAsync(cancel);
                await transaction.CommitAsync(cancel);
                return true;
            },
            cancel);
    }

    // Locked until the changes are committed: nobody takes such a strand over in between.
    private static async Task<HashSet<(string Pull, string Strand)>> HeldAsync(
        NpgsqlConnection connection,
        long id,
        IReadOnlyList<(string Pull, string Strand)> places,
        IReadOnlyDictionary<(string Pull, string Strand), long> fences,
        CancellationToken cancel)
    {
        await using var command = PostgresLink.Command(
            connection,
            """
            select q.pull, q.strand from cursiva.queue q
            join unnest($2::text[], $3::text[], $4::bigint[]) f (pull, strand, fence) on q.pull = f.pull and q.strand = f.strand and q.fence = f.fence
            where q.landing = $1 and q.result is null order by q.pull, q.strand for share of q
            """,
            id,
            places.Select(place => place.Pull).ToArray(),
            places.Select(place => place.Strand).ToArray(),
            places.Select(place => fences.GetValueOrDefault(place, -1)).ToArray());
        await using var rows = await command.ExecuteReaderAsync(cancel);
        var held = new HashSet<(string, string)>();
        while (await rows.ReadAsync(cancel))
            held.Add((rows.GetString(0), rows.GetString(1)));
        return held;
    }
}
