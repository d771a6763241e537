using System.Globalization;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Tables;

/// <summary>The SQL table of the strands that were skipped.</summary>
public static class SkipsTable
{
    /// <summary>The table's name.</summary>
    public const string Name = "skips";

    // A statement of its own for each took a third of a millisecond.
    private const int Together = 500;

    /// <summary>Creates the table.</summary>
    /// <param name="skipped">The strands of all pulls that were skipped.</param>
    public static void Create(Database database, IEnumerable<LandedStrand> skipped)
    {
        database.Execute(
            $"create table {Name} (pull varchar, strand json, status integer, because varchar, said varchar, request varchar)");
        foreach (var some in skipped.Chunk(Together))
            database.Execute($"insert into {Name} values {string.Join(", ", some.Select(strand => Row(strand, strand.Skip!)))}");
    }

    private static string Row(LandedStrand strand, LandedSkip skip) =>
        $"({string.Join(", ", new[] { strand.Pull, strand.Values }.Select(Database.Literal))}, {skip.Status.ToString(CultureInfo.InvariantCulture)}, {string.Join(", ", new[] { skip.Because, skip.Said, skip.Request }.Select(Database.Literal))})";
}
