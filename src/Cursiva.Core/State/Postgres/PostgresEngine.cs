using System.Net.Sockets;
using Cursiva.Core.Refusals;
using Npgsql;

namespace Cursiva.Core.State;

/// <summary>State in a PostgreSQL database that several machines share.</summary>
/// <param name="root">The state folder of this machine.</param>
/// <param name="password">Reads the password; null for none.</param>
/// <param name="clock">This machine's clock: it measures spans, and never says what time it is.</param>
/// <param name="tell">Is told when the database goes away and when it is back.</param>
public sealed class PostgresEngine(
    SharedDatabase database, string root, Func<CancellationToken, Task<string?>> password, TimeProvider clock, Action<string> tell)
        : IStateEngine
{
    private static readonly TimeSpan s_between = TimeSpan.FromMilliseconds(250);

    /// <inheritdoc/>
    public async Task<IState> OpenAsync(CancellationToken cancel)
    {
        var source = await SourceAsync(cancel);
        try
        {
            var asked = clock.GetTimestamp();
            var now = await LookAsync(source, cancel);
            var link = new PostgresLink(source, database.Words, database.Lease, clock, tell);
            var steady = new SteadyClock(clock, now + (clock.GetElapsedTime(asked) / 2));
            return new PostgresState(new SharedState(link, database.Lease, steady, clock, root, database.LandsHere), source);
        }
        catch
        {
            await source.DisposeAsync();
            throw;
        }
    }

    /// <inheritdoc/>
    public IStateEngine ForTogether() => this;

    /// <summary>Makes the schema, or brings it up to date.</summary>
    /// <param name="role">The role that jobs act in.</param>
    /// <returns>The version that was there before; 0 for none.</returns>
    /// <exception cref="RefusedException">The database cannot be reached or refuses.</exception>
    public async Task<int> InitAsync(string role, CancellationToken cancel)
    {
        await using var source = await SourceAsync(cancel);
        return await ReachedAsync(
            async () =>
            {
                await using var connection = await source.OpenConnectionAsync(cancel);
                return await PostgresSchema.InitAsync(connection, role, cancel);
            },
            cancel);
    }

    private Task<DateTimeOffset> LookAsync(NpgsqlDataSource source, CancellationToken cancel) => ReachedAsync(
        async () =>
        {
            await using var connection = await source.OpenConnectionAsync(cancel);
            await PostgresSchema.CheckAsync(connection, cancel);
            await using var ask = new NpgsqlCommand("select clock_timestamp()", connection);
            return new DateTimeOffset(DateTime.SpecifyKind((DateTime)(await ask.ExecuteScalarAsync(cancel))!, DateTimeKind.Utc));
        },
        cancel);

    private async Task<T> ReachedAsync<T>(Func<Task<T>> work, CancellationToken cancel)
    {
        var asked = clock.GetTimestamp();
        try
        {
            while (true)
            {
                try
                {
                    return await work();
                }
                catch (PostgresException error) when (error.SqlState.StartsWith("57P0", StringComparison.Ordinal)
                    && clock.GetElapsedTime(asked) < database.Lease)
                {
                    // It is starting or stopping.
                    await Task.Delay(s_between, clock, cancel);
                }
            }
        }
        catch (PostgresException error)
        {
            throw new RefusedException(new Refusal(
                Outcome.InternalError, $"the shared state at {database.Words} refused: {error.SqlState}, {error.MessageText}")
            {
                Cause = error.SqlState[..2] is "28"
                    ? "the user or the password is wrong, or the server does not accept this machine"
                    : null,
                NextStep = error.SqlState[..2] is "28"
                    ? $"try it from this machine: psql -h {database.Host} -p {database.Port} -U {database.User} {database.Database}"
                    : null,
            });
        }
        catch (Exception error) when (error is NpgsqlException or SocketException or IOException or TimeoutException)
        {
            throw new RefusedException(new Refusal(
                Outcome.InternalError, $"the shared state at {database.Words} cannot be reached: {PostgresLink.Words(error)}")
            {
                Cause = "the database is down, the address is wrong, or its certificate is not trusted on this machine",
                NextStep =
                    "compare the address in --state or CURSIVA_STATE with the database's; trust=FILE names the authority of its certificate",
            });
        }
    }

    private async Task<NpgsqlDataSource> SourceAsync(CancellationToken cancel)
    {
        var text = new NpgsqlConnectionStringBuilder
        {
            Host = database.Host,
            Port = database.Port,
            Database = database.Database,
            Username = database.User,
            Password = await password(cancel),
            SslMode = database.IsEncrypted ? SslMode.VerifyFull : SslMode.Disable,
            RootCertificate = database.Trust,
            Timeout = 10,
            CommandTimeout = 15,
            CancellationTimeout = 1000,
            KeepAlive = 10,
            MaxPoolSize = database.Connections,
            NoResetOnClose = true,
            Timezone = "UTC",
            ApplicationName = "cursiva",
        };
        return new NpgsqlSlimDataSourceBuilder(text.ConnectionString).EnableTransportSecurity().EnableArrays().Build();
    }
}
