using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Files;

/// <summary>Copies a SQLite file as it is at one moment, while others go on writing it.</summary>
public static class SqliteCopy
{
    /// <summary>Copies with SQLite's own backup.</summary>
    /// <param name="to">A file that is not there.</param>
    /// <exception cref="SqliteException">One of them cannot be used.</exception>
    public static void Copy(string from, string to)
    {
        using var source = Open(from, SqliteOpenMode.ReadWrite);
        using var target = Open(to, SqliteOpenMode.ReadWriteCreate);
        source.BackupDatabase(target);
    }

    private static SqliteConnection Open(string path, SqliteOpenMode mode)
    {
        var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder { DataSource = path, Pooling = false, DefaultTimeout = 30, Mode = mode }.ToString());
        connection.Open();
        return connection;
    }
}
