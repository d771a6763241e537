namespace Cursiva.Core.State;

/// <summary>Leases in a PostgreSQL database: rows that end by its clock, unless their holder renews them.</summary>
/// <param name="lives">How long a holder that is not heard of keeps what it has.</param>
internal sealed class PostgresLeases(PostgresLink link, TimeSpan lives, TimeProvider clock) : ILeases
{
    /// <inheritdoc/>
    public TimeSpan LookAgain => TimeSpan.FromMilliseconds(200);

    /// <inheritdoc/>
    public async Task<LeaseAnswer> TryTakeAsync(string name, string holder, TimeSpan? atLeast, CancellationToken cancel)
    {
        // Of its own, so that a lease whose answer was lost is known again.
        var token = Guid.NewGuid();
        var span = atLeast > lives ? atLeast.Value : lives;
        var asked = clock.GetTimestamp();
        var taken = await link.RowsAsync(
            """
            insert into cursiva.leases as l (name, holder, token, fence, until) values ($1, $2, $3, 1, clock_timestamp() + $4)
            on conflict (name) do update set holder = excluded.holder, token = excluded.token, fence = l.fence + 1, until = clock_timestamp() + $4
            where l.until <= clock_timestamp() or l.token = excluded.token
            returning fence
            """,
            rows => rows.GetInt64(0),
            cancel,
            name,
            holder,
            token,
            span);
        if (taken is [var fence])
            return new LeaseAnswer(new PostgresLease(link, name, token, fence, span, asked, clock), "");
        var heldBy = await link.ValueAsync("select holder from cursiva.leases where name = $1 and until > clock_timestamp()", cancel, name);
        return new LeaseAnswer(null, heldBy as string ?? "");
    }
}
