using Microsoft.Data.Sqlite;
using ZstdSharp;

namespace Cursiva.Core.State;

/// <summary>Pages and strands as rows of a run's file, their lines packed by zstd (RFC 8878).</summary>
internal static class StoredPages
{
    /// <summary>The columns of a page, in their order.</summary>
    public const string Columns = "pull, strand, page, rows, length, checksum, next, piece, mark, ended, told, etag, lines";

    private const int PackLevel = 1;

    /// <summary>Carries out changes, within a transaction.</summary>
    public static void Apply(OneConnection file, string landing, IReadOnlyList<StoredChange> changes)
    {
        using var packer = new Compressor(PackLevel);
        foreach (var change in changes)
        {
            if (change is StoredPage page)
                Add(file, landing, page, packer);
            else if (change is StoredStrand strand)
                Put(file, landing, strand);
            else if (change is StoredDrop drop)
                Drop(file, landing, drop);
        }
    }

    /// <summary>The page at which a reader stands.</summary>
    public static StoredPage Read(SqliteDataReader rows)
    {
        var (length, packed) = (rows.GetInt32(4), (byte[])rows[12]);
        return new StoredPage(
            rows.GetString(0),
            rows.GetString(1),
            rows.GetInt32(2),
            rows.GetInt32(3),
            length,
            rows.GetInt64(5),
            Text(rows, 6),
            rows.GetBoolean(7),
            Text(rows, 8),
            Text(rows, 9),
            rows.IsDBNull(10) ? null : rows.GetInt64(10),
            Text(rows, 11),
            () => Unpack(packed, length));
    }

    /// <summary>A text; null for none.</summary>
    public static string? Text(SqliteDataReader rows, int column) => rows.IsDBNull(column) ? null : rows.GetString(column);

    /// <summary>A value as a parameter.</summary>
    public static object Of(object? value) => value ?? DBNull.Value;

    private static ReadOnlyMemory<byte> Unpack(byte[] packed, int length)
    {
        if (length == 0)
            return default;
        using var unpacker = new Decompressor();
        return unpacker.Unwrap(packed, length).ToArray();
    }

    private static void Add(OneConnection file, string landing, StoredPage page, Compressor packer) => Run(
        file,
        $"insert into pages (landing, {Columns}) values ($landing, $pull, $strand, $page, $rows, $length, $checksum, $next, $piece, $mark, $ended, $told, $etag, $lines)",
        ("$landing", landing),
        ("$pull", page.Pull),
        ("$strand", page.Strand),
        ("$page", page.Page),
        ("$rows", page.Rows),
        ("$length", page.Length),
        ("$checksum", page.Checksum),
        ("$next", Of(page.Next)),
        ("$piece", page.IsPiece),
        ("$mark", Of(page.Mark)),
        ("$ended", Of(page.Ended)),
        ("$told", Of(page.Told)),
        ("$etag", Of(page.ETag)),
        ("$lines", page.Length == 0 ? Array.Empty<byte>() : packer.Wrap(page.Lines().Span).ToArray()));

    private static void Put(OneConnection file, string landing, StoredStrand strand) => Run(
        file,
        """
        insert into strands values ($landing, $pull, $strand, $values, $carried, $way, $status, $because, $said, $request)
        on conflict do update set status = excluded.status, because = excluded.because, said = excluded.said, request = excluded.request
        """,
        ("$landing", landing),
        ("$pull", strand.Pull),
        ("$strand", strand.Strand),
        ("$values", strand.Values),
        ("$carried", strand.Carried),
        ("$way", strand.Way),
        ("$status", Of(strand.Status)),
        ("$because", Of(strand.Because)),
        ("$said", Of(strand.Said)),
        ("$request", Of(strand.Request)));

    private static void Drop(OneConnection file, string landing, StoredDrop drop)
    {
        Run(
            file,
            "delete from pages where landing = $landing and pull = $pull and strand = $strand and page >= $page",
            ("$landing", landing),
            ("$pull", drop.Pull),
            ("$strand", drop.Strand),
            ("$page", drop.FromPage));
        foreach (var (pull, from, before) in drop.Below)
        {
            foreach (var table in new[] { "pages", "strands" })
                Run(
                    file,
                    $"delete from {table} where landing = $landing and pull = $pull and strand >= $from and strand < $before",
                    ("$landing", landing),
                    ("$pull", pull),
                    ("$from", from),
                    ("$before", before));
        }
    }

    private static void Run(OneConnection file, string sql, params ReadOnlySpan<(string Name, object Value)> values)
    {
        using var command = file.Command(sql, values);
        command.ExecuteNonQuery();
    }
}
