using System.Globalization;

namespace Cursiva.Core.Tables;

/// <summary>The SQL table of the run itself: one row.</summary>
public static class RunTable
{
    /// <summary>The table's name.</summary>
    public const string Name = "run";

    /// <summary>Makes the table with its one row.</summary>
    public static void Create(Database database, RunFacts run)
    {
        database.Execute($"""
            create table {Name} as select
              {run.Number.ToString(CultureInfo.InvariantCulture)}::integer as number,
              {Time(run.StartedAt)} as started_at,
              {Time(run.LandedAt)} as ended_at,
              {Database.Literal(run.Inputs)}::json as inputs,
              {(run.BeforeNumber is { } number ? number.ToString(CultureInfo.InvariantCulture) : "null")}::integer as before_number,
              {(run.BeforeStartedAt is { } started ? Time(started) : "null::timestamp")} as before_started_at
            """);
    }

    private static string Time(DateTimeOffset at) =>
        Database.Literal(at.UtcDateTime.ToString("yyyy-MM-dd HH:mm:ss.ffffff", CultureInfo.InvariantCulture)) + "::timestamp";
}
