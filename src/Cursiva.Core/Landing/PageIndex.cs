using Cursiva.Core.Files;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Landing;

/// <summary>The page index: what of the segments counts. A page is in it only after its bytes were flushed.</summary>
internal sealed class PageIndex : IDisposable
{
    private readonly SqliteConnection _connection;

    public PageIndex(IDisk disk, string path)
    {
        if (!disk.Exists(path))
            disk.Open(path).Dispose();
        _connection = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = path, Pooling = false, DefaultTimeout = 30 }.ToString());
        _connection.Open();
        Execute("""
            pragma journal_mode = wal;
            pragma synchronous = full;
            create table if not exists pages (
                pull text not null, strand integer not null, page integer not null, segment integer not null, offset integer not null,
                length integer not null, rows integer not null, checksum integer not null, next text, primary key (pull, strand, page)) without rowid;
            """);
    }

    /// <summary>Adds pages in one transaction, durable when it returns.</summary>
    public void Add(IReadOnlyList<LandedPage> pages)
    {
        using var transaction = _connection.BeginTransaction();
        using var command = _connection.CreateCommand();
        command.CommandText = "insert into pages values ($pull, $strand, $page, $segment, $offset, $length, $rows, $checksum, $next)";
        foreach (var name in new[] { "$pull", "$strand", "$page", "$segment", "$offset", "$length", "$rows", "$checksum", "$next" })
            command.Parameters.Add(new SqliteParameter { ParameterName = name });
        foreach (var page in pages)
        {
            object[] values = [page.Pull, page.Strand, page.Page, page.Segment, page.Offset, page.Length, page.Rows, page.Checksum, (object?)page.Next ?? DBNull.Value];
            for (var i = 0; i < values.Length; i++)
                command.Parameters[i].Value = values[i];
            command.ExecuteNonQuery();
        }

        transaction.Commit();
    }

    /// <summary>The pages of a pull, by strand and page: the order in which its rows are read.</summary>
    public List<LandedPage> PagesOf(string pull)
    {
        using var command = _connection.CreateCommand();
        command.CommandText = "select strand, page, segment, offset, length, rows, checksum, next from pages where pull = $pull order by strand, page";
        command.Parameters.AddWithValue("$pull", pull);
        using var rows = command.ExecuteReader();
        var pages = new List<LandedPage>();
        while (rows.Read())
        {
            pages.Add(new LandedPage(
                pull, rows.GetInt32(0), rows.GetInt32(1), rows.GetInt32(2), rows.GetInt64(3), rows.GetInt32(4), rows.GetInt32(5), rows.GetInt64(6),
                rows.IsDBNull(7) ? null : rows.GetString(7)));
        }

        return pages;
    }

    public void Dispose() => _connection.Dispose();

    private void Execute(string sql)
    {
        using var command = _connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }
}
