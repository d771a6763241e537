namespace Cursiva.Core.State;

/// <summary>Notes in a table that is not logged. Each is tried once: the next second brings another.</summary>
internal sealed class PostgresNotes(PostgresLink link) : INotes
{
    /// <inheritdoc/>
    public async Task<byte[]?> ReadAsync(string name, CancellationToken cancel) =>
        (byte[]?)await link.ValueAsync("select note from cursiva.notes where name = $1", cancel, name);

    /// <inheritdoc/>
    public Task WriteAsync(string name, byte[] note, CancellationToken cancel) => OnceAsync(
        "insert into cursiva.notes (name, note) values ($1, $2) on conflict (name) do update set note = excluded.note", cancel, name, note);

    /// <inheritdoc/>
    public Task ClearAsync(string name, CancellationToken cancel) => OnceAsync("delete from cursiva.notes where name = $1", cancel, name);

    private async Task OnceAsync(string sql, CancellationToken cancel, params object[] values)
    {
        try
        {
            await link.OnceAsync(
                async connection =>
                {
                    await using var command = PostgresLink.Command(connection, sql, values);
                    return await command.ExecuteNonQueryAsync(cancel);
                },
                cancel);
        }
        catch (Exception error) when (PostgresLink.MayPass(error))
        {
            throw new IOException($"the shared state did not accept a note: {PostgresLink.Words(error)}", error);
        }
    }
}
