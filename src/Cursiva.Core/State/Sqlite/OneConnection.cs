using Microsoft.Data.Sqlite;

namespace Cursiva.Core.State;

/// <summary>A connection that one call at a time uses.</summary>
internal sealed class OneConnection(SqliteConnection connection) : IDisposable
{
    private readonly SemaphoreSlim _gate = new(1, 1);

    public SqliteConnection Connection => connection;

    public SqliteCommand Command(string sql, params ReadOnlySpan<(string Name, object Value)> values)
    {
        var command = connection.CreateCommand();
        command.CommandText = sql;
        foreach (var (name, value) in values)
            command.Parameters.AddWithValue(name, value);
        return command;
    }

    public async Task<T> AloneAsync<T>(Func<T> work, CancellationToken cancel)
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

    public void Dispose()
    {
        connection.Dispose();
        _gate.Dispose();
    }
}
