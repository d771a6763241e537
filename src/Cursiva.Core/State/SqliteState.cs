using Cursiva.Core.Files;
using Cursiva.Core.Refusals;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.State;

/// <summary>State in one SQLite file, shared by the processes of one machine.</summary>
public sealed class SqliteState : IState
{
    // A process that holds all slots of a window gives them back at its next request; others look again this often.
    private static readonly TimeSpan s_lookAgain = TimeSpan.FromMilliseconds(20);

    // Longer than a writer waits for the lock: whoever comes out of that wait is late, and no clock was set back.
    private static readonly TimeSpan s_clockTolerance = TimeSpan.FromSeconds(40);

    private readonly SqliteConnection _connection;
    private readonly SemaphoreSlim _gate = new(1, 1);

    // The format of what lies in it; 0 is that of the first version, which did not say.
    /// <summary>The version of what is in the file.</summary>
    public const long Format = 1;

    private SqliteState(SqliteConnection connection) => _connection = connection;

    /// <summary>Opens the state, and creates it when it is not there. Its folder must exist.</summary>
    /// <exception cref="SqliteException">The file cannot be opened or is no state.</exception>
    /// <exception cref="RefusedException">A newer version of Cursiva has written it.</exception>
    public static SqliteState Open(string path)
    {
        if (!File.Exists(path))
            File.Open(path, new FileStreamOptions { Mode = FileMode.OpenOrCreate, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite }).Dispose();

        var state = new SqliteState(SqliteFile.Open(
            path,
            "create table if not exists documents (kind text not null, key text not null, document blob not null, primary key (kind, key)) without rowid",
            "create table if not exists slots (bucket text not null, place integer not null, free_at integer not null, in_flight integer not null, primary key (bucket, place)) without rowid",
            "create index if not exists slots_by_time on slots (bucket, free_at)",
            "create table if not exists clock (latest integer not null)"));
        state.CheckFormat(path);
        return state;
    }

    private void CheckFormat(string path)
    {
        using var ask = Command("pragma user_version");
        var found = (long)ask.ExecuteScalar()!;
        if (found > Format)
        {
            _connection.Dispose();
            throw new RefusedException(new Refusal(Outcome.InternalError, $"{path} has format {found}, and this Cursiva reads {Format}")
            {
                Cause = "a newer version of Cursiva has written it",
                NextStep = "install that version again, or name another state folder with --state",
            });
        }

        if (found == Format)
            return;
        using var tell = Command($"pragma user_version = {Format}");
        tell.ExecuteNonQuery();
    }

    /// <inheritdoc/>
    public Task<byte[]?> ReadAsync(string kind, string key, CancellationToken cancel) => Alone(() =>
    {
        using var command = Command("select document from documents where kind = $kind and key = $key", ("$kind", kind), ("$key", key));
        return command.ExecuteScalar() as byte[];
    }, cancel);

    /// <inheritdoc/>
    public Task WriteAsync(string kind, string key, byte[] document, CancellationToken cancel) => Alone(() =>
    {
        using var command = Command(
            "insert into documents (kind, key, document) values ($kind, $key, $document) on conflict do update set document = excluded.document",
            ("$kind", kind), ("$key", key), ("$document", document));
        return command.ExecuteNonQuery();
    }, cancel);

    /// <inheritdoc/>
    public Task WriteAllAsync(string kind, IReadOnlyList<KeyValuePair<string, byte[]>> documents, CancellationToken cancel) => Alone(() =>
    {
        using var transaction = _connection.BeginTransaction(deferred: false);
        foreach (var (key, document) in documents)
        {
            using var command = Command(
                "insert into documents (kind, key, document) values ($kind, $key, $document) on conflict do update set document = excluded.document",
                ("$kind", kind), ("$key", key), ("$document", document));
            command.ExecuteNonQuery();
        }

        transaction.Commit();
        return documents.Count;
    }, cancel);

    /// <inheritdoc/>
    public Task<bool> DeleteAsync(string kind, string key, CancellationToken cancel) => Alone(() =>
    {
        using var command = Command("delete from documents where kind = $kind and key = $key", ("$kind", kind), ("$key", key));
        return command.ExecuteNonQuery() > 0;
    }, cancel);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<byte[]>> ListAsync(string kind, string prefix, CancellationToken cancel) =>
        [.. (await NewestAsync(kind, prefix, int.MaxValue, cancel))];

    /// <inheritdoc/>
    public Task<IReadOnlyList<byte[]>> NewestAsync(string kind, string prefix, int most, CancellationToken cancel) => Alone<IReadOnlyList<byte[]>>(() =>
    {
        // Keys are compared byte by byte, so that those with one beginning stand together.
        using var command = Command(
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
    public Task<SlotAnswer> TakeSlotsAsync(IReadOnlyList<SlotWindow> windows, int most, DateTimeOffset now, TimeSpan hold, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel) => Alone(() =>
    {
        using var transaction = _connection.BeginTransaction(deferred: false);
        foreach (var (slot, freeAt) in givenBack)
            Update(slot, freeAt, inFlight: false);
        var setBack = FollowClock(now);

        var taken = new List<Permit>();
        SlotWindow? full = null;
        while (taken.Count < most && full is null)
        {
            var places = new List<FreePlace>();
            foreach (var window in windows)
            {
                if (NextFree(window, now) is { } place)
                {
                    places.Add(place);
                    continue;
                }

                full = window;
                break;
            }

            if (full is null)
                taken.Add(Take(places, hold));
        }

        var wait = full is null || taken.Count > 0 ? TimeSpan.Zero : UntilFree(full, now);
        transaction.Commit();
        return new SlotAnswer(taken, wait, taken.Count > 0 ? null : full) { SetBack = setBack };
    }, cancel);

    /// <inheritdoc/>
    public Task<IReadOnlyList<Slot>> HoldSlotsAsync(IReadOnlyList<Slot> slots, DateTimeOffset until, CancellationToken cancel) => Alone<IReadOnlyList<Slot>>(() =>
    {
        using var transaction = _connection.BeginTransaction(deferred: false);
        List<Slot> held = [.. slots.Where(slot => Update(slot, until, inFlight: true)).Select(slot => slot with { HeldUntil = until })];
        transaction.Commit();
        return held;
    }, cancel);

    /// <inheritdoc/>
    public Task<IReadOnlyList<KeyValuePair<string, byte[]>>> RangeAsync(string kind, string from, string before, CancellationToken cancel) => Alone<IReadOnlyList<KeyValuePair<string, byte[]>>>(() =>
    {
        using var command = Command("select key, document from documents where kind = $kind and key >= $from and key < $before order by key", ("$kind", kind), ("$from", from), ("$before", before));
        using var rows = command.ExecuteReader();
        var documents = new List<KeyValuePair<string, byte[]>>();
        while (rows.Read())
            documents.Add(new(rows.GetString(0), (byte[])rows[1]));
        return documents;
    }, cancel);

    /// <inheritdoc/>
    public Task<int> CountSlotsAsync(string bucket, DateTimeOffset now, CancellationToken cancel) => Alone(() =>
    {
        using var command = Command("select count(*) from slots where bucket = $bucket and free_at > $now", ("$bucket", bucket), ("$now", now.UtcTicks));
        return (int)(long)command.ExecuteScalar()!;
    }, cancel);

    /// <inheritdoc/>
    public ValueTask DisposeAsync()
    {
        _connection.Dispose();
        _gate.Dispose();
        return ValueTask.CompletedTask;
    }

    // Slots are counted by the machine's clock. Where that was set back, they move with it: no window is cut short, and none waits for the
    // time that was.
    private TimeSpan? FollowClock(DateTimeOffset now)
    {
        using var read = Command("select latest from clock");
        if (read.ExecuteScalar() is not long latest)
        {
            Execute("insert into clock values ($now)", now.UtcTicks);
            return null;
        }

        var back = TimeSpan.FromTicks(latest - now.UtcTicks);
        if (back > s_clockTolerance)
            Execute("update slots set free_at = free_at - $now", back.Ticks);
        if (back > s_clockTolerance || back < TimeSpan.Zero)
            Execute("update clock set latest = $now", now.UtcTicks);
        return back > s_clockTolerance ? back : null;
    }

    private void Execute(string sql, long value)
    {
        using var command = Command(sql, ("$now", value));
        command.ExecuteNonQuery();
    }

    // A slot in flight is free when its holder gave it back, or is not heard of again; only others are taken ahead.
    private FreePlace? NextFree(SlotWindow window, DateTimeOffset now)
    {
        FreePlace? soon = null;
        using (var free = Command(
            "select place, free_at from slots where bucket = $bucket and place < $count and free_at <= $ahead and (free_at <= $now or in_flight = 0) order by free_at limit 1",
            ("$bucket", window.Bucket), ("$count", window.Count), ("$now", now.UtcTicks), ("$ahead", (now + window.Ahead).UtcTicks)))
        using (var rows = free.ExecuteReader())
        {
            if (rows.Read())
                soon = new FreePlace(window, rows.GetInt32(0), Later(now, new DateTimeOffset(rows.GetInt64(1), TimeSpan.Zero)));
        }

        if (soon?.FreeAt == now)
            return soon;
        using var next = Command("select coalesce(max(place) + 1, 0) from slots where bucket = $bucket", ("$bucket", window.Bucket));
        var unused = (int)(long)next.ExecuteScalar()!;
        return unused < window.Count ? new FreePlace(window, unused, now) : soon;
    }

    private TimeSpan UntilFree(SlotWindow window, DateTimeOffset now)
    {
        using var earliest = Command(
            "select free_at from slots where bucket = $bucket and place < $count and in_flight = 0 order by free_at limit 1",
            ("$bucket", window.Bucket), ("$count", window.Count));
        return earliest.ExecuteScalar() is long ticks ? new DateTimeOffset(ticks, TimeSpan.Zero) - window.Ahead - now : s_lookAgain;
    }

    private Permit Take(List<FreePlace> places, TimeSpan hold)
    {
        var last = places.MaxBy(place => place.FreeAt);
        var leaves = last.FreeAt;
        var slots = places.ConvertAll(place => new Slot(place.Window, place.Place, leaves + hold + place.Window.Window));
        foreach (var slot in slots)
        {
            using var command = Command(
                "insert into slots (bucket, place, free_at, in_flight) values ($bucket, $place, $free, 1) on conflict do update set free_at = excluded.free_at, in_flight = 1",
                ("$bucket", slot.Window.Bucket), ("$place", slot.Place), ("$free", slot.HeldUntil.UtcTicks));
            command.ExecuteNonQuery();
        }

        return new Permit(slots, leaves, last.Window);
    }

    // False when the slot was taken for lost, and may be another request's by now.
    private bool Update(Slot slot, DateTimeOffset freeAt, bool inFlight)
    {
        using var command = Command(
            "update slots set free_at = $free, in_flight = $flight where bucket = $bucket and place = $place and in_flight = 1 and free_at = $held",
            ("$bucket", slot.Window.Bucket), ("$place", slot.Place), ("$free", freeAt.UtcTicks), ("$held", slot.HeldUntil.UtcTicks), (
                "$flight", inFlight ? 1 : 0));
        return command.ExecuteNonQuery() > 0;
    }

    private static DateTimeOffset Later(DateTimeOffset one, DateTimeOffset other) => one > other ? one : other;

    private SqliteCommand Command(string sql, params ReadOnlySpan<(string Name, object Value)> values)
    {
        var command = _connection.CreateCommand();
        command.CommandText = sql;
        foreach (var (name, value) in values)
            command.Parameters.AddWithValue(name, value);
        return command;
    }

    private async Task<T> Alone<T>(Func<T> work, CancellationToken cancel)
    {
        await _gate.WaitAsync(cancel);
        try
        {
            return work();
        }
        finally
        {
            _gate.Release();
        }
    }

    private readonly record struct FreePlace(SlotWindow Window, int Place, DateTimeOffset FreeAt);
}
