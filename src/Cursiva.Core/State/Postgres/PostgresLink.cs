using System.Net.Sockets;
using System.Runtime.CompilerServices;
using Cursiva.Core.Refusals;
using Npgsql;

namespace Cursiva.Core.State;

/// <summary>
/// Statements sent to a shared database. What fails because the database is away, or because of others who wrote at the same time, is sent
/// again: everything that goes through here may be carried out twice.
/// </summary>
/// <remarks>
/// No statement needs a session: each is a transaction of its own, with qualified names, so that a pooler in transaction mode may stand
/// between.
/// </remarks>
/// <param name="words">Names the database to people.</param>
/// <param name="patience">After this long without an answer it is given up.</param>
/// <param name="tell">Is told when the database goes away and when it is back.</param>
internal sealed class PostgresLink(NpgsqlDataSource source, string words, TimeSpan patience, TimeProvider clock, Action<string> tell)
{
    private static readonly TimeSpan s_first = TimeSpan.FromMilliseconds(50);
    private static readonly TimeSpan s_longest = TimeSpan.FromSeconds(1);

    private readonly Lock _gate = new();
    private long? _awaySince;
    private bool _told;

    /// <summary>Does something with a connection, and once more where that failed and may be repeated.</summary>
    /// <exception cref="StateAwayException">The database was away for too long.</exception>
    /// <exception cref="RefusedException">The database refuses it.</exception>
    public async Task<T> DoAsync<T>(Func<NpgsqlConnection, Task<T>> work, CancellationToken cancel)
    {
        for (var pause = s_first; ; pause = pause * 2 > s_longest ? s_longest : pause * 2)
        {
            try
            {
                var result = await OnceAsync(work, cancel);
                Answered();
                return result;
            }
            catch (Exception error) when (MayPass(error))
            {
                cancel.ThrowIfCancellationRequested();

                // Deadlocks and serialization failures are no sign that the database is away.
                if (error is not PostgresException { SqlState: "40001" or "40P01" })
                    GiveUpLate(error);
                await Task.Delay(pause, clock, cancel);
            }
            catch (PostgresException error)
            {
                throw new RefusedException(
                    new Refusal(Outcome.InternalError, $"the shared state at {words} refused: {error.SqlState}, {error.MessageText}"),
                    error);
            }
        }
    }

    /// <summary>Does something once.</summary>
    public async Task<T> OnceAsync<T>(Func<NpgsqlConnection, Task<T>> work, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        return await work(connection);
    }

    /// <summary>Carries out one statement that gives no rows.</summary>
    /// <returns>How many rows it changed.</returns>
    public Task<int> ExecuteAsync(string sql, CancellationToken cancel, params object[] values) => DoAsync(
        async connection =>
        {
            await using var command = Command(connection, sql, values);
            return await command.ExecuteNonQueryAsync(cancel);
        },
        cancel);

    /// <summary>The first value that a statement gives; null for none.</summary>
    public Task<object?> ValueAsync(string sql, CancellationToken cancel, params object[] values) => DoAsync(
        async connection =>
        {
            await using var command = Command(connection, sql, values);
            return await command.ExecuteScalarAsync(cancel) is { } value and not DBNull ? value : null;
        },
        cancel);

    /// <summary>The rows that a statement gives.</summary>
    public Task<List<T>> RowsAsync<T>(string sql, Func<NpgsqlDataReader, T> read, CancellationToken cancel, params object[] values) =>
        DoAsync(
        async connection =>
        {
            await using var command = Command(connection, sql, values);
            await using var rows = await command.ExecuteReaderAsync(cancel);
            var found = new List<T>();
            while (await rows.ReadAsync(cancel))
                found.Add(read(rows));
            return found;
        },
        cancel);

    /// <summary>
    /// The rows of a query as they come, by COPY. Where the connection breaks, the query is asked again for those behind the last one.
    /// </summary>
    /// <param name="query">The query for the rows behind one; behind none for all of them.</param>
    /// <exception cref="StateAwayException">The database was away for too long.</exception>
    public async IAsyncEnumerable<T> CopyAsync<T>(
        Func<T?, string> query, Func<NpgsqlBinaryExporter, CancellationToken, ValueTask<T>> read, [EnumeratorCancellation] CancellationToken cancel)
        where T : class
    {
        T? last = null;
        for (var pause = s_first; ; pause = pause * 2 > s_longest ? s_longest : pause * 2)
        {
            var broken = false;
            await using var rows = CopyAsync(query(last), read, cancel).GetAsyncEnumerator(cancel);
            while (true)
            {
                try
                {
                    if (!await rows.MoveNextAsync())
                        yield break;
                    (last, pause) = (rows.Current, s_first);
                    Answered();
                }
                catch (Exception error) when (MayPass(error))
                {
                    cancel.ThrowIfCancellationRequested();
                    GiveUpLate(error);
                    broken = true;
                }

                if (broken)
                    break;
                yield return last!;
            }

            await Task.Delay(pause, clock, cancel);
        }
    }

    private async IAsyncEnumerable<T> CopyAsync<T>(
        string query, Func<NpgsqlBinaryExporter, CancellationToken, ValueTask<T>> read, [EnumeratorCancellation] CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var copy = await connection.BeginBinaryExportAsync($"copy ({query}) to stdout (format binary)", cancel);
        while (await copy.StartRowAsync(cancel) >= 0)
            yield return await read(copy, cancel);
    }

    /// <summary>A text as it stands in a statement that takes no parameters.</summary>
    public static string Literal(string text) =>
        $"E'{text.Replace(@"\", @"\\", StringComparison.Ordinal).Replace("'", "''", StringComparison.Ordinal)}'";

    /// <summary>A statement with its values, <c>$1</c> onwards.</summary>
    public static NpgsqlCommand Command(NpgsqlConnection connection, string sql, params ReadOnlySpan<object> values)
    {
        var command = new NpgsqlCommand(sql, connection);
        foreach (var value in values)
            command.Parameters.Add(new NpgsqlParameter { Value = value });
        return command;
    }

    /// <summary>
    /// Whether a failure is of a kind that passes: a connection that broke, a server that restarts, others who were faster.
    /// </summary>
    public static bool MayPass(Exception error) => error switch
    {
        // Classes of SQLSTATE: connections, resources, operator intervention, system errors, and transactions that others disturbed.
        PostgresException sql => sql.SqlState[..2] is "08" or "53" or "57" or "58" || sql.SqlState is "40001" or "40P01" or "55P03",
        NpgsqlException or SocketException or TimeoutException or EndOfStreamException => true,
        _ => false,
    };

    /// <summary>What a failure says, without what belongs into a log.</summary>
    public static string Words(Exception error) =>
        error is PostgresException sql ? sql.MessageText : (error.InnerException ?? error).Message;

    private void Answered()
    {
        lock (_gate)
        {
            if (_told)
                tell($"the shared state at {words} answers again");
            (_awaySince, _told) = (null, false);
        }
    }

    private void GiveUpLate(Exception error)
    {
        lock (_gate)
        {
            var since = _awaySince ??= clock.GetTimestamp();
            var away = clock.GetElapsedTime(since);
            if (away >= patience)
                throw new StateAwayException(words, away, Words(error), error);
            if (_told)
                return;
            _told = true;
            tell($"the shared state at {words} does not answer ({Words(error)}); tried for {patience.TotalSeconds:0} s");
        }
    }
}
