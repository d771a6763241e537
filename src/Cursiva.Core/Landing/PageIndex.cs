using System.Globalization;
using Cursiva.Core.Files;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Landing;

/// <summary>The index of a landing: what of the segments counts, and the strands. A page is in it only after its bytes were flushed.</summary>
internal sealed class PageIndex : IDisposable
{
    private const string PageColumns = "strand, page, segment, offset, length, rows, checksum, next, piece, mark, ended, told, etag";

    private readonly SqliteConnection _connection;
    private readonly Lock _alone = new();

    /// <summary>The strands.</summary>
    public StrandIndex Strands { get; }

    public PageIndex(IDisk disk, string path)
    {
        if (!disk.Exists(path))
            disk.Open(path).Dispose();
        _connection = SqliteFile.Open(
            path,
            """
            create table if not exists pages (
                pull text not null, strand text not null, page integer not null, segment integer not null, offset integer not null, length integer not null,
                rows integer not null, checksum integer not null, next text, piece integer not null, mark text, ended text, told integer, etag text, primary key (pull, strand, page)) without rowid
            """,
            """
            create table if not exists strands (
                pull text not null, strand text not null, "values" text not null, carried text not null, way text not null,
                status integer, because text, said text, request text, primary key (pull, strand)) without rowid
            """);
        Strands = new StrandIndex(_connection, _alone);
    }

    /// <summary>Carries out changes in one transaction, durable when it returns.</summary>
    public void Apply(IReadOnlyList<IndexChange> changes)
    {
        lock (_alone)
        {
            using var transaction = _connection.BeginTransaction();
            using var page = Command($"insert into pages (pull, {PageColumns}) values ($0, $1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)");
            using var strand = Command("insert into strands values ($0, $1, $2, $3, $4, $5, $6, $7, $8) on conflict do update set status = excluded.status, because = excluded.because, said = excluded.said, request = excluded.request");
            using var drop = Command("delete from pages where pull = $0 and strand = $1 and page >= $2");
            foreach (var change in changes)
            {
                if (change.Page is { } written)
                    Run(
                        page,
                        written.Pull,
                        written.Strand,
                        written.Page,
                        written.Segment,
                        written.Offset,
                        written.Length,
                        written.Rows,
                        written.Checksum,
                        written.Next,
                        written.IsPiece ? 1 : 0,
                        written.Mark,
                        written.Ended,
                        written.Told,
                        written.ETag);
                if (change.Strand is { } begun)
                    Run(
                        strand,
                        begun.Pull,
                        begun.Strand,
                        begun.Values,
                        begun.Carried,
                        begun.Way,
                        begun.Skip?.Status,
                        begun.Skip?.Because,
                        begun.Skip?.Said,
                        begun.Skip?.Request);
                if (change.Dropped is { } dropped)
                {
                    Run(drop, dropped.Pull, dropped.Strand, dropped.FromPage);
                    foreach (var below in dropped.Below)
                        DropBelow(below, dropped);
                }
            }

            transaction.Commit();
        }
    }

    /// <summary>The pages of a pull, by strand and page: the order in which its rows are read.</summary>
    public List<LandedPage> PagesOf(string pull)
    {
        lock (_alone)
        {
            using var command = Command($"select {PageColumns} from pages where pull = $0 order by strand, page", pull);
            return IndexRows.Pages(pull, command);
        }
    }

    /// <summary>Where the rows of a pull are, by strand and page.</summary>
    /// <param name="withEmpty">Whether pages without rows are told as well.</param>
    public List<LandedPlace> PlacesOf(string pull, bool withEmpty)
    {
        lock (_alone)
        {
            using var command = Command("select strand, page, segment, offset, length, rows, checksum from pages where pull = $0 and length >= $1 order by strand, page", pull, withEmpty ? 0 : 1);
            return IndexRows.Places(command);
        }
    }

    /// <summary>The pulls that have pages.</summary>
    public List<string> Pulls()
    {
        lock (_alone)
        {
            using var command = Command("select distinct pull from pages order by pull");
            using var rows = command.ExecuteReader();
            var pulls = new List<string>();
            while (rows.Read())
                pulls.Add(rows.GetString(0));
            return pulls;
        }
    }

    /// <summary>What SQLite finds wrong with the file; null for nothing.</summary>
    public string? Damage()
    {
        lock (_alone)
        {
            using var command = Command("pragma quick_check(1)");
            return command.ExecuteScalar() as string is { } said && said != "ok" ? said : null;
        }
    }

    /// <summary>The pages of a pull, and their rows.</summary>
    public (long Pages, long Rows) CountOf(string pull)
    {
        lock (_alone)
        {
            using var command = Command("select count(*), coalesce(sum(rows), 0) from pages where pull = $0", pull);
            using var rows = command.ExecuteReader();
            rows.Read();
            return (rows.GetInt64(0), rows.GetInt64(1));
        }
    }

    /// <summary>Bytes of a pull's rows.</summary>
    public long BytesOf(string pull)
    {
        lock (_alone)
        {
            using var command = Command("select coalesce(sum(length), 0) from pages where pull = $0", pull);
            return (long)command.ExecuteScalar()!;
        }
    }

    /// <summary>The last pages of a strand, the last first.</summary>
    public List<LandedPage> LastPages(string pull, string strand, int most)
    {
        lock (_alone)
        {
            using var command = Command($"select {PageColumns} from pages where pull = $0 and strand = $1 order by page desc limit $2", pull, strand, most);
            return IndexRows.Pages(pull, command);
        }
    }

    /// <summary>How the strands of a pull ended, alike ones together.</summary>
    public List<StrandEnds> EndsOf(string pull)
    {
        lock (_alone)
        {
            using var command = Command("select ended, count(*), count(told), coalesce(sum(told), 0) from pages where pull = $0 and ended is not null group by ended order by ended", pull);
            using var rows = command.ExecuteReader();
            var ends = new List<StrandEnds>();
            while (rows.Read())
                ends.Add(
                    new StrandEnds(rows.GetString(0), rows.GetInt64(1), rows.GetInt64(1) == rows.GetInt64(2) ? rows.GetInt64(3) : null));
            return ends;
        }
    }

    /// <summary>The pages of a pull that are all of their strand and have an ETag, by the values of the strand.</summary>
    /// <param name="most">Most of them.</param>
    public Dictionary<string, LandedPage> TaggedOf(string pull, int most)
    {
        lock (_alone)
        {
            using var command = Command($"select {string.Join(", ", PageColumns.Split(", ").Select(column => "p." + column))}, coalesce(s.\"values\", $1) from pages p left join strands s on s.pull = p.pull and s.strand = p.strand where p.pull = $0 and p.page = 0 and p.next is null and p.etag is not null limit $2", pull, LandedStrand.NoValues, most);
            var pages = IndexRows.Pages(pull, command);
            using var rows = command.ExecuteReader();
            var tagged = new Dictionary<string, LandedPage>(StringComparer.Ordinal);
            for (var place = 0; rows.Read(); place++)
                tagged[rows.GetString(13)] = pages[place];
            return tagged;
        }
    }

    /// <summary>The rows of a strand, and the checksums of its pages that have any.</summary>
    public (long Rows, List<long> Checksums) RowsOf(string pull, string strand)
    {
        lock (_alone)
        {
            using var command = Command("select rows, checksum from pages where pull = $0 and strand = $1 order by page", pull, strand);
            using var rows = command.ExecuteReader();
            var (count, checksums) = (0L, new List<long>());
            while (rows.Read())
            {
                count += rows.GetInt32(0);
                if (rows.GetInt32(0) > 0)
                    checksums.Add(rows.GetInt64(1));
            }

            return (count, checksums);
        }
    }

    /// <summary>Whether pages of a pull led on to others, and whether they told how many rows there are.</summary>
    public (bool LedOn, bool Told) SeenOf(string pull)
    {
        lock (_alone)
        {
            using var command = Command("select count(next), count(told) from pages where pull = $0", pull);
            using var rows = command.ExecuteReader();
            rows.Read();
            return (rows.GetInt64(0) > 0, rows.GetInt64(1) > 0);
        }
    }

    /// <summary>The highest marks of a pull's strands.</summary>
    public List<(string Strand, string Mark)> MarksOf(string pull)
    {
        lock (_alone)
        {
            using var command = Command("select strand, mark from pages where pull = $0 and mark is not null order by strand, page", pull);
            using var rows = command.ExecuteReader();
            var marks = new List<(string, string)>();
            while (rows.Read())
                marks.Add((rows.GetString(0), rows.GetString(1)));
            return marks;
        }
    }

    /// <summary>Drops the pages and strands of every other pull; the rows that a pull is repeated for go with it.</summary>
    /// <returns>The pulls that were dropped.</returns>
    public IReadOnlyList<string> KeepOnly(IReadOnlySet<string> pulls)
    {
        lock (_alone)
        {
            var names = new List<string>();
            using (var all = Command("select pull from pages union select pull from strands"))
            using (var rows = all.ExecuteReader())
            {
                while (rows.Read())
                    names.Add(rows.GetString(0));
            }

            using var transaction = _connection.BeginTransaction();
            names.RemoveAll(name => pulls.Contains(name.EndsWith(Jobs.Per.Suffix, StringComparison.Ordinal) ? name[..^Jobs.Per.Suffix.Length] : name));
            foreach (var name in names)
            {
                foreach (var table in new[] { "pages", "strands" })
                {
                    using var drop = Command($"delete from {table} where pull = $0", name);
                    drop.ExecuteNonQuery();
                }
            }

            transaction.Commit();
            return names;
        }
    }

    /// <summary>What there is of each pull, by name.</summary>
    public List<State.LandingSum> Sums() => IndexSums.Of(_connection);

    public void Dispose() => _connection.Dispose();

    // Strands made from rows that no longer count.
    private void DropBelow(string pull, DroppedPages dropped)
    {
        foreach (var table in new[] { "pages", "strands" })
        {
            using var command = Command($"delete from {table} where pull = $0 and strand >= $1 and strand < $2", pull, dropped.FirstBelow, dropped.FirstAfter);
            command.ExecuteNonQuery();
        }
    }

    private SqliteCommand Command(string sql, params object[] values) => IndexRows.Command(_connection, sql, values);

    private static void Run(SqliteCommand command, params ReadOnlySpan<object?> values)
    {
        for (var i = 0; i < values.Length; i++)
        {
            if (command.Parameters.Count <= i)
                command.Parameters.Add(new SqliteParameter { ParameterName = "$" + i.ToString(CultureInfo.InvariantCulture) });
            command.Parameters[i].Value = values[i] ?? DBNull.Value;
        }

        command.ExecuteNonQuery();
    }
}
