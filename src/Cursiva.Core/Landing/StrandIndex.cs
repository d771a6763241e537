using System.Text;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Landing;

/// <summary>The strands in the index of a landing. Of many strands only a piece is in memory at a time.</summary>
/// <param name="alone">Held while the connection is used.</param>
internal sealed class StrandIndex(SqliteConnection connection, Lock alone)
{
    private const int PieceSize = 1000;
    private const int FirstOfReason = 8;

    /// <summary>A strand; null when it was not begun.</summary>
    public LandedStrand? Find(string pull, string strand)
    {
        lock (alone)
        {
            using var command = Command("select * from strands where pull = $0 and strand = $1", pull, strand);
            return IndexRows.Strands(command).FirstOrDefault();
        }
    }

    /// <summary>Whether any strand of a pull was begun.</summary>
    public bool Any(string pull)
    {
        lock (alone)
        {
            using var command = Command("select 1 from strands where pull = $0 limit 1", pull);
            return command.ExecuteScalar() is not null;
        }
    }

    /// <summary>How many strands of a pull were begun.</summary>
    public long Count(string pull)
    {
        lock (alone)
        {
            using var command = Command("select count(*) from strands where pull = $0", pull);
            return (long)command.ExecuteScalar()!;
        }
    }

    /// <summary>The strands of a pull, in order, read piece by piece as they are asked for.</summary>
    public IEnumerable<LandedStrand> Of(string pull, bool onlySkipped)
    {
        List<LandedStrand> piece;
        var last = "";
        var from = ">=";
        do
        {
            lock (alone)
            {
                using var command = Command(
                    $"select * from strands where pull = $0 and strand {from} $1 {(onlySkipped ? "and because is not null" : "")} order by strand limit {PieceSize}",
                    pull,
                    last);
                piece = IndexRows.Strands(command);
            }

            foreach (var strand in piece)
                yield return strand;
            if (piece.Count > 0)
                (last, from) = (piece[^1].Strand, ">");
        }
        while (piece.Count == PieceSize);
    }

    /// <summary>The strands from one on, up to another, that need nothing more: they ended, or were skipped.</summary>
    /// <returns>Whether each was skipped, by strand.</returns>
    public Dictionary<string, bool> Ended(string pull, string from, string before)
    {
        lock (alone)
        {
            using var command = Command(
                """
                select strand, 0 from pages where pull = $0 and strand >= $1 and strand < $2 and next is null and piece = 0
                union all select strand, 1 from strands where pull = $0 and strand >= $1 and strand < $2 and because is not null
                """,
                pull, from, before);
            using var rows = command.ExecuteReader();
            var ended = new Dictionary<string, bool>(StringComparer.Ordinal);
            while (rows.Read())
                ended[rows.GetString(0)] = rows.GetInt32(1) != 0;
            return ended;
        }
    }

    /// <summary>What the rows of strands take along, JSON objects by strand; strands whose rows take nothing along are omitted.</summary>
    public Dictionary<string, byte[]> CarriedOf(string pull)
    {
        lock (alone)
        {
            using var command = Command("select strand, carried from strands where pull = $0 and carried <> '{}'", pull);
            using var rows = command.ExecuteReader();
            var carried = new Dictionary<string, byte[]>(StringComparer.Ordinal);
            while (rows.Read())
                carried[rows.GetString(0)] = Encoding.UTF8.GetBytes(rows.GetString(1));
            return carried;
        }
    }

    /// <summary>Why strands of a pull were skipped, in their order.</summary>
    public List<SkipReason> ReasonsOf(string pull)
    {
        lock (alone)
        {
            var reasons = new List<SkipReason>();
            using var command = Command(
                "select because, count(*), min(strand) as first from strands where pull = $0 and because is not null group by because order by first",
                pull);
            using var rows = command.ExecuteReader();
            while (rows.Read())
            {
                using var some = Command(
                    $"select * from strands where pull = $0 and because = $1 order by strand limit {FirstOfReason}",
                    pull,
                    rows.GetString(0));
                reasons.Add(new SkipReason(pull, rows.GetString(0), rows.GetInt64(1), IndexRows.Strands(some)));
            }

            return reasons;
        }
    }

    /// <summary>Forgets that strands were skipped, so that they are tried again.</summary>
    public void ForgetSkips()
    {
        lock (alone)
        {
            using var command = Command(
                "update strands set status = null, because = null, said = null, request = null where because is not null");
            command.ExecuteNonQuery();
        }
    }

    private SqliteCommand Command(string sql, params ReadOnlySpan<object> values) => IndexRows.Command(connection, sql, values);
}
