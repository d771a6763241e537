using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Npgsql;
using ZstdSharp;

namespace Cursiva.Core.State;

/// <summary>Landings in a PostgreSQL database: pages go in by COPY, packed, in groups that are a transaction each.</summary>
/// <param name="under">The lease that whoever writes has to hold; null for none.</param>
internal sealed class PostgresLandings(PostgresLink link, ILease? under) : ILandings
{
    private const string Held = "select 1 from cursiva.leases where name = $1 and fence = $2 for share";

    private const string Group =
        """
        insert into cursiva.groups as g values ($1, $2, $3)
        on conflict (landing, writer) do update set nth = excluded.nth where g.nth < excluded.nth returning 1
        """;

    private readonly Guid _writer = Guid.NewGuid();
    private readonly ConcurrentDictionary<string, long> _ids = new(StringComparer.Ordinal);
    private long _nth;

    /// <inheritdoc/>
    public bool IsShared(string landing) => true;

    /// <inheritdoc/>
    public Task AddAsync(string landing, IReadOnlyList<StoredChange> changes, CancellationToken cancel) => WriteAsync(
        landing,
        (connection, id) => ApplyAsync(connection, id, changes, cancel),
        cancel);

    /// <summary>Carries out changes, within a transaction.</summary>
    /// <param name="id">The landing's number.</param>
    internal static async Task ApplyAsync(
        NpgsqlConnection connection, long id, IReadOnlyList<StoredChange> changes, CancellationToken cancel)
    {
        for (var at = 0; at < changes.Count;)
        {
            var pages = changes.Skip(at).TakeWhile(change => change is StoredPage).Count();
            if (pages > 0)
                await CopiedPages.WriteAsync(connection, id, changes.Skip(at).Take(pages).Cast<StoredPage>(), cancel);
            else
                await ApplyAsync(connection, id, changes[at], cancel);
            at += Math.Max(1, pages);
        }
    }

    /// <inheritdoc/>
    public Task DropAsync(string landing, IReadOnlyList<string> pulls, CancellationToken cancel) => WriteAsync(
        landing,
        async (connection, id) =>
        {
            foreach (var table in new[] { "pages", "strands" })
                await RunAsync(
                    connection, $"delete from cursiva.{table} where landing = $1 and pull = any($2)", cancel, id, pulls.ToArray());
        },
        cancel);

    /// <inheritdoc/>
    public Task ForgetSkipsAsync(string landing, CancellationToken cancel) => WriteAsync(
        landing,
        (connection, id) => RunAsync(
            connection,
            "update cursiva.strands set status = null, because = null, said = null, request = null where landing = $1 and because is not null",
            cancel,
            id),
        cancel);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<LandingSum>> SumsAsync(string landing, CancellationToken cancel) => await link.RowsAsync(
        """
        with one as (select id from cursiva.landings where name = $1),
        p as (select pull, count(*) n, sum(rows) r, sum(checksum::numeric * (page + 1)) c from cursiva.pages where landing = (select id from one) group by pull),
        s as (select pull, count(*) + count(because) n from cursiva.strands where landing = (select id from one) group by pull)
        select coalesce(p.pull, s.pull), coalesce(p.n, 0), coalesce(p.r, 0),
            (mod(mod(coalesce(p.c, 0), 18446744073709551616) + 18446744073709551616, 18446744073709551616))::text, coalesce(s.n, 0)
        from p full join s on p.pull = s.pull order by 1
        """,
        rows => new LandingSum(
            rows.GetString(0),
            rows.GetInt64(1),
            rows.GetInt64(2),
            unchecked((long)ulong.Parse(rows.GetString(3), System.Globalization.CultureInfo.InvariantCulture)),
            rows.GetInt64(4)),
        cancel,
        landing);

    /// <inheritdoc/>
    public async IAsyncEnumerable<StoredStrand> StrandsAsync(string landing, [EnumeratorCancellation] CancellationToken cancel)
    {
        var strands = await link.RowsAsync(
            """
            select s.pull, s.strand, s."values", s.carried, s.way, s.status, s.because, s.said, s.request
            from cursiva.strands s join cursiva.landings l on l.id = s.landing where l.name = $1 order by s.pull, s.strand
            """,
            rows => new StoredStrand(
                rows.GetString(0),
                rows.GetString(1),
                rows.GetString(2),
                rows.GetString(3),
                rows.GetString(4),
                rows.IsDBNull(5) ? null : rows.GetInt32(5),
                Text(rows, 6),
                Text(rows, 7),
                Text(rows, 8)),
            cancel,
            landing);
        foreach (var strand in strands)
            yield return strand;
    }

    /// <inheritdoc/>
    public async IAsyncEnumerable<StoredPage> PagesAsync(
        string landing, (string Pull, IReadOnlyList<string> Strands)? some, [EnumeratorCancellation] CancellationToken cancel)
    {
        using var decompressor = new Decompressor();
        await foreach (var page in link.CopyAsync<StoredPage>(
            Query, (copy, token) => CopiedPages.ReadAsync(copy, decompressor, token), cancel))
            yield return page;

        // COPY takes no parameters.
        string Query(StoredPage? behind) =>
            $"""
            select {CopiedPages.Columns} from cursiva.pages where landing = (select id from cursiva.landings where name = {PostgresLink.Literal(landing)})
                and (pull, strand, page) > ({PostgresLink.Literal(behind?.Pull ?? "")}, {PostgresLink.Literal(behind?.Strand ?? "")}, {behind?.Page ?? -1})
                {(some is { } asked ? $"and pull = {PostgresLink.Literal(asked.Pull)} and strand = any (array[{string.Join(", ", asked.Strands.Select(PostgresLink.Literal))}]::text[])" : "")}
            order by pull, strand, page
            """;
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<string>> ListAsync(string prefix, CancellationToken cancel) => await link.RowsAsync(
        "select name from cursiva.landings where name >= $1 and name < $1 || chr(1114111) order by name", rows => rows.GetString(
            0), cancel, prefix);

    /// <inheritdoc/>
    public Task RemoveAsync(IReadOnlyList<string> landings, CancellationToken cancel)
    {
        foreach (var landing in landings)
            _ids.TryRemove(landing, out _);
        return landings.Count == 0
            ? Task.CompletedTask
            : link.ExecuteAsync("delete from cursiva.landings where name = any($1)", cancel, (object)landings.ToArray());
    }

    /// <inheritdoc/>
    /// <remarks>Other machines may want to report on it.</remarks>
    public Task ReleaseAsync(string landing, CancellationToken cancel) => Task.CompletedTask;

    /// <summary>Writes to a landing in a transaction, as the holder of the lease; of one landing one call at a time.</summary>
    internal async Task WriteAsync(string landing, Func<NpgsqlConnection, long, Task> write, CancellationToken cancel)
    {
        var id = await IdAsync(landing, cancel);
        var nth = Interlocked.Increment(ref _nth);
        await link.DoAsync(
            async connection =>
            {
                await using var transaction = await connection.BeginTransactionAsync(cancel);
                if (under is not null && await RunAsync(connection, Held, cancel, under.Name, under.Fence) is null)
                    throw new LeaseLostException(under.Name);

                // It may have been committed just before the connection broke.
                if (await RunAsync(connection, Group, cancel, id, _writer, nth) is not null)
                    await write(connection, id);
                await transaction.CommitAsync(cancel);
                return true;
            },
            cancel);
    }

    /// <summary>The number of a landing, which is made where it is not there.</summary>
    internal async Task<long> IdAsync(string landing, CancellationToken cancel)
    {
        if (_ids.TryGetValue(landing, out var known))
            return known;
        await link.ExecuteAsync("insert into cursiva.landings (name) values ($1) on conflict do nothing", cancel, landing);
        return _ids[landing] = (long)(await link.ValueAsync("select id from cursiva.landings where name = $1", cancel, landing))!;
    }

    private static async Task ApplyAsync(NpgsqlConnection connection, long id, StoredChange change, CancellationToken cancel)
    {
        if (change is StoredStrand strand)
        {
            await RunAsync(
                connection,
                """
                insert into cursiva.strands values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
                on conflict (landing, pull, strand) do update
                set status = excluded.status, because = excluded.because, said = excluded.said, request = excluded.request
                """,
                cancel,
                id,
                strand.Pull,
                strand.Strand,
                strand.Values,
                strand.Carried,
                strand.Way,
                (object?)strand.Status ?? DBNull.Value,
                (object?)strand.Because ?? DBNull.Value,
                (object?)strand.Said ?? DBNull.Value,
                (object?)strand.Request ?? DBNull.Value);
        }
        else if (change is StoredDrop drop)
        {
            await RunAsync(
                connection,
                "delete from cursiva.pages where landing = $1 and pull = $2 and strand = $3 and page >= $4",
                cancel,
                id,
                drop.Pull,
                drop.Strand,
                drop.FromPage);
            foreach (var (pull, from, before) in drop.Below)
            {
                foreach (var table in new[] { "pages", "strands" })
                    await RunAsync(
                        connection,
                        $"delete from cursiva.{table} where landing = $1 and pull = $2 and strand >= $3 and strand < $4",
                        cancel,
                        id,
                        pull,
                        from,
                        before);
            }
        }
    }

    private static async Task<object?> RunAsync(NpgsqlConnection connection, string sql, CancellationToken cancel, params object[] values)
    {
        await using var command = PostgresLink.Command(connection, sql, values);
        return await command.ExecuteScalarAsync(cancel);
    }

    private static string? Text(NpgsqlDataReader rows, int column) => rows.IsDBNull(column) ? null : rows.GetString(column);
}
