using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Checks;

/// <summary>What can be found wrong with a job that was read, before any request is made.</summary>
public static class JobCheck
{
    private const long EnoughMemory = 256L * 1024 * 1024;

    /// <summary>Checks the SQL of the reports: the grammar, one SELECT each, and the tables they read.</summary>
    public static IReadOnlyList<Mistake> Check(Job job)
    {
        if (job.Reports.Count == 0 && job.Pulls.All(pull => pull.Per?.Sql is null))
            return [];

        var mistakes = new List<Mistake>();
        using var database = new Database(Path.GetTempPath(), EnoughMemory);
        database.Confine();
        foreach (var report in job.Reports)
        {
            try
            {
                foreach (var (name, position) in SqlText.Read(database, report.Sql).Tables)
                {
                    if (!name.Equals(SkipsTable.Name, StringComparison.OrdinalIgnoreCase) && !job.Pulls.Any(pull => pull.Name.Equals(name, StringComparison.OrdinalIgnoreCase)))
                    {
                        mistakes.Add(new Mistake(
                            SqlPlace.Of(report, position),
                            $"report '{report.Name}' reads the table '{name}', and no pull has this name",
                            Nearest.Hint(name, [.. job.Pulls.Select(pull => pull.Name)], "pulls")));
                    }
                }
            }
            catch (SqlException error)
            {
                mistakes.Add(new Mistake(SqlPlace.Of(report, error.Position), $"the SQL of report '{report.Name}' is wrong: {error.Message}", "write one SELECT over the pulls' tables"));
            }
        }

        foreach (var pull in job.Pulls.Where(pull => pull.Per?.Sql is not null))
            CheckQuery(database, job, pull, mistakes);
        return mistakes;
    }

    // What a pull is repeated for may be read from pulls above it alone: the others are not landed yet.
    private static void CheckQuery(Database database, Job job, Pull pull, List<Mistake> mistakes)
    {
        List<string> above = [.. job.Pulls.TakeWhile(other => other != pull).Select(other => other.Name)];
        try
        {
            foreach (var (name, _) in SqlText.Read(database, pull.Per!.Sql!).Tables.Where(table => !above.Contains(table.Name, StringComparer.OrdinalIgnoreCase)))
                mistakes.Add(new Mistake(pull.Per.Place, $"the query of pull '{pull.Name}' reads the table '{name}', and no pull above has this name", Nearest.Hint(name, above, "pulls above")));
        }
        catch (SqlException error)
        {
            mistakes.Add(new Mistake(pull.Per!.Place, $"the query of pull '{pull.Name}' is wrong: {error.Message}", "write one SELECT over pulls above"));
        }
    }
}
