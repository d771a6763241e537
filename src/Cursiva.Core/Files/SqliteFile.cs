using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Files;

/// <summary>
/// SQLite files whose transactions are durable when they return, and whose writers of several processes wait for each other.
/// </summary>
public static class SqliteFile
{
    /// <summary>Opens a file.</summary>
    /// <param name="tables">Create what is not there yet, in one transaction. One statement each: in a row of several, the library tells no
    /// failure of those behind a first one that gives rows.</param>
    /// <exception cref="SqliteException">It cannot be opened, or is not a SQLite file.</exception>
    public static SqliteConnection Open(string path, params IEnumerable<string> tables)
    {
        var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder { DataSource = path, Pooling = false, DefaultTimeout = 30 }.ToString());
        try
        {
            connection.Open();
            // In milliseconds; what another process does under the lock takes as long as the disk takes.
            Execute(connection, "pragma busy_timeout = 30000");
            Execute(connection, "pragma journal_mode = wal");
            Execute(connection, "pragma synchronous = full");
            using var transaction = connection.BeginTransaction(deferred: false);
            foreach (var table in tables)
                Execute(connection, table);
            transaction.Commit();
            return connection;
        }
        catch
        {
            connection.Dispose();
            throw;
        }
    }

    private static void Execute(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }
}
