using System.Globalization;

namespace Cursiva.Core.Tables;

/// <summary>The SQL table of the pulls of the run: how each ended, and whether that proves that it is whole.</summary>
public static class PullsTable
{
    /// <summary>The table's name.</summary>
    public const string Name = "pulls";

    /// <summary>Makes the table, one row for each pull.</summary>
    public static void Create(Database database, IReadOnlyList<PullFacts> pulls)
    {
        database.Execute(
            $"create table {Name} (pull varchar, strands bigint, pages bigint, rows bigint, expected bigint, ended varchar, proven boolean)");
        foreach (var pull in pulls)
            database.Execute(
                $"insert into {Name} values ({Database.Literal(pull.Pull)}, {Number(pull.Strands)}, {Number(pull.Pages)}, {Number(pull.Rows)}, {(pull.Told is { } told ? Number(told) : "null")}, {Database.Literal(pull.Ended)}, {(pull.Proven ? "true" : "false")})");
    }

    private static string Number(long number) => number.ToString(CultureInfo.InvariantCulture);
}
