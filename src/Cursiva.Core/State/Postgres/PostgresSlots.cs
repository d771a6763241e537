namespace Cursiva.Core.State;

/// <summary>Slots in a PostgreSQL database, counted by its own clock: whatever the machines' clocks say, there is one.</summary>
internal sealed class PostgresSlots(PostgresLink link) : ISlots
{
    /// <inheritdoc/>
    /// <remarks>One statement: nobody waits for a slot longer than it takes to commit it.</remarks>
    public Task<SlotAnswer> TakeAsync(
        IReadOnlyList<SlotWindow> windows, int most, TimeSpan hold, IReadOnlyList<SlotReturn> givenBack, CancellationToken cancel)
    {
        object[] values =
        [
            windows.Select(window => window.Bucket).ToArray(),
            windows.Select(window => window.Count).ToArray(),
            windows.Select(window => Microseconds(window.Window)).ToArray(),
            windows.Select(window => Microseconds(window.Ahead)).ToArray(),
            most,
            Microseconds(hold),
            givenBack.Select(given => given.Slot.Window.Bucket).ToArray(),
            givenBack.Select(given => given.Slot.Place).ToArray(),
            givenBack.Select(given => given.Slot.Hold).ToArray(),
            givenBack.Select(given => Microseconds(given.FreeIn)).ToArray(),
        ];
        return link.DoAsync(connection => TakeAsync(connection, windows, values, cancel), cancel);
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<Slot>> HoldAsync(IReadOnlyList<Slot> slots, TimeSpan hold, CancellationToken cancel)
    {
        var held = await link.RowsAsync(
            "select nth, held from cursiva.hold_slots($1, $2, $3, $4) order by nth",
            rows => (Nth: rows.GetInt32(0), Held: rows.GetInt64(1)),
            cancel,
            slots.Select(slot => slot.Window.Bucket).ToArray(),
            slots.Select(slot => slot.Place).ToArray(),
            slots.Select(slot => slot.Hold).ToArray(),
            Microseconds(hold));
        return held.ConvertAll(row => slots[row.Nth - 1] with { Hold = row.Held });
    }

    /// <inheritdoc/>
    public async Task<int> CountAsync(string bucket, CancellationToken cancel) =>
        (int)(long)(await link.ValueAsync(
            "select count(*) from cursiva.slots where bucket = $1 and free_at > cursiva.now_us()", cancel, bucket))!;

    /// <inheritdoc/>
    public Task PauseAsync(string client, TimeSpan span, CancellationToken cancel) => link.ExecuteAsync(
        """
        insert into cursiva.pauses as p (client, until) values ($1, clock_timestamp() + $2)
        on conflict (client) do update set until = greatest(p.until, excluded.until)
        """,
        cancel,
        client,
        span);

    /// <inheritdoc/>
    public async Task<TimeSpan?> PauseLeftAsync(string client, CancellationToken cancel) =>
        await link.ValueAsync(
            "select until - clock_timestamp() from cursiva.pauses where client = $1 and until > clock_timestamp()", cancel, client)
            is TimeSpan left ? left : null;

    private static async Task<SlotAnswer> TakeAsync(
        Npgsql.NpgsqlConnection connection, IReadOnlyList<SlotWindow> windows, object[] values, CancellationToken cancel)
    {
        await using var take = PostgresLink.Command(
            connection,
            "select permit, place, held, leaves_in, latest from cursiva.take_slots($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)",
            values);
        await using var rows = await take.ExecuteReaderAsync(cancel);
        var permits = new List<Permit>();
        var slots = new List<Slot>();
        while (await rows.ReadAsync(cancel))
        {
            var span = TimeSpan.FromMicroseconds(rows.GetInt64(3));
            if (rows.IsDBNull(0))
                return new SlotAnswer(permits, span, rows.IsDBNull(1) ? null : windows[rows.GetInt32(1) - 1]);
            slots.Add(new Slot(windows[slots.Count], rows.GetInt32(1), rows.GetInt64(2)));
            if (slots.Count < windows.Count)
                continue;
            permits.Add(new Permit(slots, span, windows[rows.GetInt32(4) - 1]));
            slots = [];
        }

        throw new InvalidDataException("take_slots did not say how it ended");
    }

    // Rounded up: a slot is never free too early.
    private static long Microseconds(TimeSpan span) => (long)Math.Ceiling(span.TotalMicroseconds);
}
