using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Files;

/// <summary>Looks after a SQLite file.</summary>
public static class SqliteCare
{
    /// <summary>What SQLite finds wrong with a file; null for nothing.</summary>
    public static string? Damage(string path)
    {
        try
        {
            using var connection = SqliteFile.Open(path);
            using var command = connection.CreateCommand();
            command.CommandText = "pragma integrity_check(1)";
            return command.ExecuteScalar() as string is { } said && said != "ok" ? said : null;
        }
        catch (SqliteException error)
        {
            return error.Message;
        }
    }

    /// <summary>Gives back to the disk what a file no longer uses.</summary>
    /// <exception cref="SqliteException">It is in use for longer than a writer waits, or damaged.</exception>
    public static void Shrink(string path)
    {
        using var connection = SqliteFile.Open(path);
        foreach (var sql in new[] { "vacuum", "pragma wal_checkpoint(truncate)" })
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            command.ExecuteNonQuery();
        }
    }
}
