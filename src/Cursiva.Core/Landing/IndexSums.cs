using Cursiva.Core.State;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Landing;

/// <summary>Adds up what a page index has, to compare it with what is shared.</summary>
internal static class IndexSums
{
    public static List<LandingSum> Of(SqliteConnection connection)
    {
        var sums = new SortedDictionary<string, LandingSum>(StringComparer.Ordinal);
        using (var pages = IndexRows.Command(connection, "select pull, rows, checksum, page from pages"))
        using (var rows = pages.ExecuteReader())
        {
            while (rows.Read())
            {
                var sum = SumOf(rows.GetString(0));
                sums[sum.Pull] = sum with
                {
                    Pages = sum.Pages + 1,
                    Rows = sum.Rows + rows.GetInt32(1),
                    Checksums = unchecked(sum.Checksums + (rows.GetInt64(2) * (rows.GetInt32(3) + 1L))),
                };
            }
        }

        using var strands = IndexRows.Command(connection, "select pull, count(*) + count(because) from strands group by pull");
        using var counts = strands.ExecuteReader();
        while (counts.Read())
        {
            var sum = SumOf(counts.GetString(0));
            sums[sum.Pull] = sum with { Strands = counts.GetInt64(1) };
        }

        return [.. sums.Values];

        LandingSum SumOf(string pull) => sums.GetValueOrDefault(pull) ?? new LandingSum(pull, 0, 0, 0, 0);
    }
}
