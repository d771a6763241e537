using System.Globalization;
using System.Text;

namespace Cursiva.Core.State;

/// <summary>Slots in one SQLite file, counted by the machine's clock.</summary>
internal sealed class SqliteSlots(OneConnection file, IState documents, TimeProvider clock) : ISlots
{
    private const string PauseKind = "pause";

    // A process that holds all slots of a window gives them back at its next request; others look again this often.
    private static readonly TimeSpan s_lookAgain = TimeSpan.FromMilliseconds(20);

    // Longer than a writer waits for the lock: whoever comes out of that wait is late, and no clock was set back.
    private static readonly TimeSpan s_clockTolerance = TimeSpan.FromSeconds(40);

    /// <inheritdoc/>
    public Task<SlotAnswer> TakeAsync(
        IReadOnlyList<SlotWindow> windows, int most, TimeSpan hold, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel)
    {
        // The wait for the file counts towards what was told from now.
        var now = clock.GetUtcNow();
        return file.AloneAsync(
            () =>
            {
                using var transaction = file.Connection.BeginTransaction(deferred: false);
                foreach (var (slot, freeIn) in givenBack)
                    Update(slot, now + freeIn, inFlight: false);
                var setBack = FollowClock(now);

                var taken = new List<TakenPlaces>();
                SlotWindow? full = null;
                while (taken.Count < most && full is null)
                {
                    var places = new List<FreePlace>();
                    full = windows.FirstOrDefault(window => !AddFree(places, window, now));
                    if (full is null)
                        taken.Add(Take(places, hold));
                }

                var wait = full is null || taken.Count > 0 ? TimeSpan.Zero : UntilFree(full, now);
                transaction.Commit();
                var told = clock.GetUtcNow();
                return new SlotAnswer(
                    taken.ConvertAll(places => new Permit(places.Slots, places.LeavesAt - told, places.Latest)),
                    wait,
                    taken.Count > 0 ? null : full)
                {
                    SetBack = setBack,
                };
            },
            cancel);
    }

    /// <inheritdoc/>
    public Task<IReadOnlyList<Slot>> HoldAsync(IReadOnlyList<Slot> slots, TimeSpan hold, CancellationToken cancel) =>
        file.AloneAsync<IReadOnlyList<Slot>>(
            () =>
            {
                using var transaction = file.Connection.BeginTransaction(deferred: false);
                var until = clock.GetUtcNow() + hold;
                List<Slot> held =
                [
                    .. slots.Where(slot => Update(slot, until, inFlight: true)).Select(slot => slot with { Hold = until.UtcTicks }),
                ];
                transaction.Commit();
                return held;
            },
            cancel);

    /// <inheritdoc/>
    public Task<int> CountAsync(string bucket, CancellationToken cancel) => file.AloneAsync(
        () =>
        {
            using var command = file.Command(
                "select count(*) from slots where bucket = $bucket and free_at > $now", ("$bucket", bucket), ("$now", clock.GetUtcNow().UtcTicks));
            return (int)(long)command.ExecuteScalar()!;
        },
        cancel);

    /// <inheritdoc/>
    public async Task PauseAsync(string client, TimeSpan span, CancellationToken cancel)
    {
        if (await PauseLeftAsync(client, cancel) >= span)
            return;
        var now = clock.GetUtcNow();
        var note = string.Create(CultureInfo.InvariantCulture, $"{(now + span).UtcTicks} {now.UtcTicks}");
        await documents.WriteAsync(PauseKind, client, Encoding.ASCII.GetBytes(note), cancel);
    }

    /// <inheritdoc/>
    public async Task<TimeSpan?> PauseLeftAsync(string client, CancellationToken cancel)
    {
        if (await documents.ReadAsync(PauseKind, client, cancel) is not { } note
            || Encoding.ASCII.GetString(note).Split(' ') is not [var until, var asked])
            return null;

        // Of a clock that was set back since, the pause lasts no longer than it was meant to.
        var (end, began, now) = (
            long.Parse(until, CultureInfo.InvariantCulture), long.Parse(asked, CultureInfo.InvariantCulture), clock.GetUtcNow().UtcTicks);
        return TimeSpan.FromTicks(end - Math.Max(now, began)) is var left && left > TimeSpan.Zero ? left : null;
    }

    // Slots are counted by the machine's clock. Where that was set back, they move with it: no window is cut short, and none waits for the
    // time that was.
    private TimeSpan? FollowClock(DateTimeOffset now)
    {
        using var read = file.Command("select latest from clock");
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
        using var command = file.Command(sql, ("$now", value));
        command.ExecuteNonQuery();
    }

    private bool AddFree(List<FreePlace> places, SlotWindow window, DateTimeOffset now)
    {
        if (NextFree(window, now) is not { } place)
            return false;
        places.Add(place);
        return true;
    }

    // A slot in flight is free when its holder gave it back, or is not heard of again; only others are taken ahead.
    private FreePlace? NextFree(SlotWindow window, DateTimeOffset now)
    {
        FreePlace? soon = null;
        using (var free = file.Command(
            "select place, free_at from slots where bucket = $bucket and place < $count and free_at <= $ahead and (free_at <= $now or in_flight = 0) order by free_at limit 1",
            ("$bucket", window.Bucket), ("$count", window.Count), ("$now", now.UtcTicks), ("$ahead", (now + window.Ahead).UtcTicks)))
        using (var rows = free.ExecuteReader())
        {
            if (rows.Read())
                soon = new FreePlace(window, rows.GetInt32(0), Later(now, new DateTimeOffset(rows.GetInt64(1), TimeSpan.Zero)));
        }

        if (soon?.FreeAt == now)
            return soon;
        using var next = file.Command("select coalesce(max(place) + 1, 0) from slots where bucket = $bucket", ("$bucket", window.Bucket));
        var unused = (int)(long)next.ExecuteScalar()!;
        return unused < window.Count ? new FreePlace(window, unused, now) : soon;
    }

    private TimeSpan UntilFree(SlotWindow window, DateTimeOffset now)
    {
        using var earliest = file.Command(
            "select free_at from slots where bucket = $bucket and place < $count and in_flight = 0 order by free_at limit 1",
            ("$bucket", window.Bucket), ("$count", window.Count));
        return earliest.ExecuteScalar() is long ticks ? new DateTimeOffset(ticks, TimeSpan.Zero) - window.Ahead - now : s_lookAgain;
    }

    private TakenPlaces Take(List<FreePlace> places, TimeSpan hold)
    {
        var last = places.MaxBy(place => place.FreeAt);
        var leaves = last.FreeAt;
        var slots = places.ConvertAll(place => new Slot(place.Window, place.Place, (leaves + hold + place.Window.Window).UtcTicks));
        foreach (var slot in slots)
        {
            using var command = file.Command(
                "insert into slots (bucket, place, free_at, in_flight) values ($bucket, $place, $free, 1) on conflict do update set free_at = excluded.free_at, in_flight = 1",
                ("$bucket", slot.Window.Bucket), ("$place", slot.Place), ("$free", slot.Hold));
            command.ExecuteNonQuery();
        }

        return new TakenPlaces(slots, leaves, last.Window);
    }

    // False when the slot was taken for lost, and may be another request's by now. Until when it is held tells one holder from another.
    private bool Update(Slot slot, DateTimeOffset freeAt, bool inFlight)
    {
        using var command = file.Command(
            "update slots set free_at = $free, in_flight = $flight where bucket = $bucket and place = $place and in_flight = 1 and free_at = $held",
            ("$bucket", slot.Window.Bucket), ("$place", slot.Place), ("$free", freeAt.UtcTicks), ("$held", slot.Hold), (
                "$flight", inFlight ? 1 : 0));
        return command.ExecuteNonQuery() > 0;
    }

    private static DateTimeOffset Later(DateTimeOffset one, DateTimeOffset other) => one > other ? one : other;

    private readonly record struct FreePlace(SlotWindow Window, int Place, DateTimeOffset FreeAt);

    private sealed record TakenPlaces(IReadOnlyList<Slot> Slots, DateTimeOffset LeavesAt, SlotWindow Latest);
}
