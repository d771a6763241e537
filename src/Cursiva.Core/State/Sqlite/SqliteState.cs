using Cursiva.Core.Files;
using Cursiva.Core.Refusals;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.State;

/// <summary>State in one SQLite file, shared by the processes of one machine.</summary>
public sealed class SqliteState : IState
{
    /// <summary>The version of what is in the file; 0 is that of the first one, which did not say.</summary>
    public const long Format = 1;

    private const string Put =
        "insert into documents (kind, key, document) values ($kind, $key, $document) on conflict do update set document = excluded.document";

    private readonly OneConnection _file;

    private readonly RunFiles? _runs;

    private SqliteState(OneConnection file, string path, TimeProvider clock, bool isTogether)
    {
        _file = file;
        _runs = isTogether ? new RunFiles(Path.GetDirectoryName(path)!) : null;
        Landings = _runs is null ? new OwnLandings() : new RunLandings(_runs);
        Clock = clock;
        Slots = new SqliteSlots(file, this, clock);
        Notes = new FileNotes(Path.GetDirectoryName(path)!);
        Leases = new FileLeases(Path.Combine(Path.GetDirectoryName(path)!, "locks"));
    }

    /// <inheritdoc/>
    public TimeProvider Clock { get; }

    /// <inheritdoc/>
    public ISlots Slots { get; }

    /// <inheritdoc/>
    public ILeases Leases { get; }

    /// <inheritdoc/>
    public INotes Notes { get; }

    /// <inheritdoc/>
    public ILandings Landings { get; }

    /// <inheritdoc/>
    public IStrandQueue Queue =>
        new RunQueue(_runs ?? throw new InvalidOperationException("the state was not opened for those who work together"), Clock);

    /// <inheritdoc/>
    public IStateFiles Files { get; } = new OwnFiles();

    /// <inheritdoc/>
    /// <remarks>The kernel takes a lease from nobody who lives.</remarks>
    public IState Under(ILease lease) => this;

    /// <summary>Opens the state, and creates it when it is not there. Its folder must exist.</summary>
    /// <param name="path">The absolute path of the file.</param>
    /// <param name="clock">The machine's clock.</param>
    /// <param name="isTogether">Whether several processes of this machine work on one run.</param>
    /// <exception cref="SqliteException">The file cannot be opened or is not a state.</exception>
    /// <exception cref="RefusedException">A newer version of Cursiva has written it.</exception>
    public static IState Open(string path, TimeProvider clock, bool isTogether = false)
    {
        if (!File.Exists(path))
            File.Open(
                path,
                new FileStreamOptions
                {
                    Mode = FileMode.OpenOrCreate,
                    Access = FileAccess.Write,
                    UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
                }).Dispose();

        var file = new OneConnection(SqliteFile.Open(
            path,
            "create table if not exists documents (kind text not null, key text not null, document blob not null, primary key (kind, key)) without rowid",
            "create table if not exists slots (bucket text not null, place integer not null, free_at integer not null, in_flight integer not null, primary key (bucket, place)) without rowid",
            "create index if not exists slots_by_time on slots (bucket, free_at)",
            "create table if not exists clock (latest integer not null)"));
        CheckFormat(file, path);
        return new SqliteState(file, path, clock, isTogether);
    }

    /// <inheritdoc/>
    public Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel) => _file.AloneAsync(() =>
    {
        using var command = _file.Command(
            "select document from documents where kind = $kind and key = $key", ("$kind", kind), ("$key", key));
        return command.ExecuteScalar() as byte[];
    }, cancel);

    /// <inheritdoc/>
    public Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel) => _file.AloneAsync(() =>
    {
        using var command = _file.Command(Put, ("$kind", kind), ("$key", key), ("$document", document));
        return command.ExecuteNonQuery();
    }, cancel);

    /// <inheritdoc/>
    public Task WriteAllAsync(string kind, IReadOnlyList<KeyValuePair<string, byte[]>> documents, CancellationToken cancel) =>
        _file.AloneAsync(() =>
    {
        using var transaction = _file.Connection.BeginTransaction(deferred: false);
        foreach (var (key, document) in documents)
        {
            using var command = _file.Command(Put, ("$kind", kind), ("$key", key), ("$document", document));
            command.ExecuteNonQuery();
        }

        transaction.Commit();
        return documents.Count;
    }, cancel);

    /// <inheritdoc/>
    public Task<bool> DeleteAsync(string kind, string key, CancellationToken cancel) => _file.AloneAsync(() =>
    {
        using var command = _file.Command("delete from documents where kind = $kind and key = $key", ("$kind", kind), ("$key", key));
        return command.ExecuteNonQuery() > 0;
    }, cancel);

    /// <inheritdoc/>
    public Task<bool> SwapAsync(string kind, string key, byte[]? before, byte[] document, CancellationToken cancel) =>
        _file.AloneAsync(() =>
    {
        using var command = before is null
            ? _file.Command(
                "insert into documents (kind, key, document) values ($kind, $key, $document) on conflict do nothing",
                ("$kind", kind), ("$key", key), ("$document", document))
            : _file.Command(
                "update documents set document = $document where kind = $kind and key = $key and document = $before",
                ("$kind", kind), ("$key", key), ("$document", document), ("$before", before));
        return command.ExecuteNonQuery() > 0;
    }, cancel);

    /// <inheritdoc/>
    public Task<IReadOnlyList<byte[]>> NewestAsync(string kind, string prefix, int most, CancellationToken cancel) =>
        _file.AloneAsync<IReadOnlyList<byte[]>>(() =>
    {
        // Keys are compared byte by byte, so that those with one beginning stand together.
        using var command = _file.Command(
            "select document from documents where kind = $kind and key >= $prefix and key < $prefix || char(1114111) order by key desc limit $most",
            ("$kind", kind), ("$prefix", prefix), ("$most", most));
        using var rows = command.ExecuteReader();
        var documents = new List<byte[]>();
        while (rows.Read())
            documents.Add((byte[])rows[0]);
        documents.Reverse();
        return documents;
    }, cancel);

    /// <inheritdoc/>
    public Task<IReadOnlyList<KeyValuePair<string, byte[]>>> RangeAsync(
        string kind,
        string from,
        string before,
        CancellationToken cancel) => _file.AloneAsync<IReadOnlyList<KeyValuePair<string, byte[]>>>(() =>
    {
        using var command = _file.Command(
            "select key, document from documents where kind = $kind and key >= $from and key < $before order by key",
            ("$kind", kind),
            ("$from", from),
            ("$before", before));
        using var rows = command.ExecuteReader();
        var documents = new List<KeyValuePair<string, byte[]>>();
        while (rows.Read())
            documents.Add(new(rows.GetString(0), (byte[])rows[1]));
        return documents;
    }, cancel);

    /// <inheritdoc/>
    public ValueTask DisposeAsync()
    {
        _runs?.Dispose();
        _file.Dispose();
        return ValueTask.CompletedTask;
    }

    private static void CheckFormat(OneConnection file, string path)
    {
        using var ask = file.Command("pragma user_version");
        var found = (long)ask.ExecuteScalar()!;
        if (found > Format)
        {
            file.Dispose();
            throw new RefusedException(new Refusal(Outcome.InternalError, $"{path} has format {found}, but this Cursiva reads {Format}")
            {
                Cause = "a newer version of Cursiva wrote it",
                NextStep = "install that version again, or name another state folder with --state",
            });
        }

        if (found == Format)
            return;
        using var tell = file.Command($"pragma user_version = {Format}");
        tell.ExecuteNonQuery();
    }
}
