using Cursiva.Core.Refusals;

namespace Cursiva.Core.State;

/// <summary>State in a PostgreSQL database, shared by several machines.</summary>
internal sealed class PostgresState : IState
{
    // A statement that has to be the holder's of a lease: whoever takes that lease waits until it is committed, and it fails afterwards.
    private const string Held = "with held as (select 1 from cursiva.leases where name = $1 and fence = $2 for share) ";

    private readonly PostgresLink _link;
    private readonly IAsyncDisposable? _source;
    private readonly ILease? _under;

    private readonly SharedState _shared;
    private readonly PostgresLandings _landings;

    /// <param name="source">What is closed with it; null where another one closes it.</param>
    /// <param name="under">The lease that writers have to hold; null for none.</param>
    public PostgresState(SharedState shared, IAsyncDisposable? source, ILease? under = null)
    {
        (_shared, _link, _source, _under) = (shared, shared.Link, source, under);
        Leases = new PostgresLeases(shared.Link, shared.Lease, shared.Machine);
        Slots = new PostgresSlots(shared.Link);
        Notes = new PostgresNotes(shared.Link);
        _landings = new PostgresLandings(shared.Link, under);
        Files = shared.LandsHere ? new OwnFiles() : new PostgresFiles(shared.Link, shared.Root);
    }

    /// <inheritdoc/>
    public TimeProvider Clock => _shared.Clock;

    /// <inheritdoc/>
    public ISlots Slots { get; }

    /// <inheritdoc/>
    public ILeases Leases { get; }

    /// <inheritdoc/>
    public INotes Notes { get; }

    /// <inheritdoc/>
    public ILandings Landings => _shared.LandsHere ? new OwnLandings() : _landings;

    /// <inheritdoc/>
    public IStrandQueue Queue => _shared.LandsHere
        ? throw new RefusedException(new Refusal(
            Outcome.WrongCommandLine,
            "rows stay on the machine that landed them (landing=local), so that no other one can work on the same run")
        {
            NextStep = "remove landing=local from the address of the shared state",
        })
        : new PostgresQueue(_link, _landings, _shared.Lease, _under);

    /// <inheritdoc/>
    public IStateFiles Files { get; }

    /// <inheritdoc/>
    public IState Under(ILease lease) => new PostgresState(_shared, null, lease);

    /// <inheritdoc/>
    public async Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel) =>
        (byte[]?)await _link.ValueAsync("select document from cursiva.documents where kind = $1 and key = $2", cancel, kind, key);

    /// <inheritdoc/>
    public Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel) => _under is null
        ? _link.ExecuteAsync(
            "insert into cursiva.documents (kind, key, document) values ($1, $2, $3) on conflict (kind, key) do update set document = excluded.document",
            cancel,
            kind,
            key,
            document)
        : FencedAsync(
            _under,
            Held + "insert into cursiva.documents (kind, key, document) select $3, $4, $5 from held on conflict (kind, key) do update set document = excluded.document",
            cancel,
            kind,
            key,
            document);

    /// <inheritdoc/>
    public async Task WriteAllAsync(string kind, IReadOnlyList<KeyValuePair<string, byte[]>> documents, CancellationToken cancel)
    {
        // One statement; a key twice in one would be refused, and the last one counts.
        var last = documents.GroupBy(document => document.Key).Select(same => same.Last()).ToList();
        if (last.Count == 0)
            return;
        string[] keys = [.. last.Select(document => document.Key)];
        byte[][] values = [.. last.Select(document => document.Value)];
        const string Put = " on conflict (kind, key) do update set document = excluded.document";
        if (_under is null)
            await _link.ExecuteAsync(
                "insert into cursiva.documents (kind, key, document) select $1, * from unnest($2::text[], $3::bytea[])" + Put, cancel, kind, keys, values);
        else
            await FencedAsync(
                _under,
                Held + "insert into cursiva.documents (kind, key, document) select $3, d.* from held, unnest($4::text[], $5::bytea[]) d" + Put,
                cancel,
                kind,
                keys,
                values);
    }

    /// <inheritdoc/>
    public async Task<bool> SwapAsync(string kind, string key, byte[]? before, byte[] document, CancellationToken cancel)
    {
        var swapped = before is null
            ? await _link.ExecuteAsync(
                "insert into cursiva.documents (kind, key, document) values ($1, $2, $3) on conflict do nothing", cancel, kind, key, document)
            : await _link.ExecuteAsync(
                "update cursiva.documents set document = $3 where kind = $1 and key = $2 and document = $4", cancel, kind, key, document, before);

        // The connection may have broken after it was committed.
        return swapped > 0 || (await ReadAsync(kind, key, cancel))?.AsSpan().SequenceEqual(document) == true;
    }

    /// <inheritdoc/>
    public async Task<bool> DeleteAsync(string kind, string key, CancellationToken cancel)
    {
        if (_under is null)
            return await _link.ExecuteAsync("delete from cursiva.documents where kind = $1 and key = $2", cancel, kind, key) > 0;
        var gone = await _link.ValueAsync(
            Held + """
            , gone as (delete from cursiva.documents d using held where d.kind = $3 and d.key = $4 returning 1)
            select (select count(*) from gone) from held
            """,
            cancel,
            _under.Name,
            _under.Fence,
            kind,
            key);
        return gone is long count ? count > 0 : throw new LeaseLostException(_under.Name);
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<byte[]>> NewestAsync(string kind, string prefix, int most, CancellationToken cancel)
    {
        var documents = await _link.RowsAsync(
            "select document from cursiva.documents where kind = $1 and key >= $2 and key < $2 || chr(1114111) order by key desc limit $3",
            rows => (byte[])rows[0],
            cancel,
            kind,
            prefix,
            most);
        documents.Reverse();
        return documents;
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<KeyValuePair<string, byte[]>>> RangeAsync(
        string kind, string from, string before, CancellationToken cancel) =>
        await _link.RowsAsync(
            "select key, document from cursiva.documents where kind = $1 and key >= $2 and key < $3 order by key",
            rows => new KeyValuePair<string, byte[]>(rows.GetString(0), (byte[])rows[1]),
            cancel,
            kind,
            from,
            before);

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => _source?.DisposeAsync() ?? ValueTask.CompletedTask;

    private async Task FencedAsync(ILease lease, string sql, CancellationToken cancel, params object[] values)
    {
        if (await _link.ExecuteAsync(sql, cancel, [lease.Name, lease.Fence, .. values]) == 0)
            throw new LeaseLostException(lease.Name);
    }
}
