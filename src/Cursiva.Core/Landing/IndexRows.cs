using System.Globalization;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Landing;

/// <summary>Reads rows of a page index.</summary>
internal static class IndexRows
{
    /// <summary>Pages of a pull, their columns in the order of the index.</summary>
    public static List<LandedPage> Pages(string pull, SqliteCommand command)
    {
        using var rows = command.ExecuteReader();
        var pages = new List<LandedPage>();
        while (rows.Read())
        {
            pages.Add(new LandedPage(
                pull,
                rows.GetString(0),
                rows.GetInt32(1),
                rows.GetInt32(2),
                rows.GetInt64(3),
                rows.GetInt32(4),
                rows.GetInt32(5),
                rows.GetInt64(6),
                Text(rows, 7))
            {
                IsPiece = rows.GetInt32(8) != 0,
                Mark = Text(rows, 9),
                Ended = Text(rows, 10),
                Told = rows.IsDBNull(11) ? null : rows.GetInt64(11),
                ETag = Text(rows, 12),
            });
        }

        return pages;
    }

    /// <summary>Where rows are. The pages of a strand share its text.</summary>
    public static List<LandedPlace> Places(SqliteCommand command)
    {
        using var rows = command.ExecuteReader();
        var places = new List<LandedPlace>();
        while (rows.Read())
        {
            var strand = rows.GetString(0);
            if (places.Count > 0 && places[^1].Strand == strand)
                strand = places[^1].Strand;
            places.Add(
                new LandedPlace(
                    strand, rows.GetInt32(1), rows.GetInt32(2), rows.GetInt64(3), rows.GetInt32(4), rows.GetInt32(5), rows.GetInt64(6)));
        }

        return places;
    }

    /// <summary>Strands, all their columns.</summary>
    public static List<LandedStrand> Strands(SqliteCommand command)
    {
        using var rows = command.ExecuteReader();
        var strands = new List<LandedStrand>();
        while (rows.Read())
        {
            strands.Add(new LandedStrand(rows.GetString(0), rows.GetString(1), rows.GetString(2), rows.GetString(3), rows.GetString(4))
            {
                Skip = rows.IsDBNull(6) ? null : new LandedSkip(rows.GetInt32(5), rows.GetString(6), rows.GetString(7), rows.GetString(8)),
            });
        }

        return strands;
    }

    /// <summary>A command whose parameters are $0, $1 and so on.</summary>
    public static SqliteCommand Command(SqliteConnection connection, string sql, params ReadOnlySpan<object> values)
    {
        var command = connection.CreateCommand();
        command.CommandText = sql;
        for (var i = 0; i < values.Length; i++)
            command.Parameters.AddWithValue("$" + i.ToString(CultureInfo.InvariantCulture), values[i]);
        return command;
    }

    private static string? Text(SqliteDataReader rows, int column) => rows.IsDBNull(column) ? null : rows.GetString(column);
}
