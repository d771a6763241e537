using System.Globalization;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Tables;

/// <summary>The SQL table of the strands that were passed over.</summary>
public static class SkipsTable
{
    public const string Name = "skips";

    /// <summary>Creates the table.</summary>
    /// <param name="strands">The strands of all pulls.</param>
    public static void Create(Database database, IReadOnlyList<LandedStrand> strands)
    {
        database.Execute($"create table {Name} (pull varchar, strand json, status integer, because varchar, said varchar, request varchar)");
        foreach (var strand in strands)
        {
            if (strand.Skip is { } skip)
                database.Execute($"insert into {Name} values ({string.Join(", ", new[] { strand.Pull, strand.Values }.Select(Database.Literal))}, {skip.Status.ToString(CultureInfo.InvariantCulture)}, {string.Join(", ", new[] { skip.Because, skip.Said, skip.Request }.Select(Database.Literal))})");
        }
    }
}
