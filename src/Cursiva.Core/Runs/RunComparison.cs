using System.Globalization;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>Compares the landed rows of two runs of a job.</summary>
public sealed class RunComparison(JobRuns runs, RunOptions options)
{
    /// <param name="pull">The pull to compare; null for every pull whose key is known.</param>
    /// <param name="key">The columns that tell its rows apart; empty for those that the job names.</param>
    /// <param name="most">Most rows added, rows removed and values changed that are told one by one, of each.</param>
    /// <exception cref="RefusedException">A run has no rows any more, or no key is known.</exception>
    public IReadOnlyList<PullDifference> Compare(
        int before, int now, string? pull, IReadOnlyList<string> key, int most, CancellationToken cancel)
    {
        var (earlier, later) = (runs.Landed(before), runs.Landed(now));
        var comparisons = Comparisons(pull, key);
        if (comparisons.Count == 0)
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine,
                pull is null ? "the job has no key for comparing its rows" : $"pull '{pull}' has no key for comparing its rows")
            {
                NextStep = "add --pull NAME --key COLUMN, or compare: to the job",
            });
        }

        var spill = Path.Combine(runs.Folder.Of(later.Number), "spill");
        options.Disk.CreateFolder(spill);
        try
        {
            using var database = new Database(spill, runs.Job.Memory, runs.Job.Spill, cancel);
            return [.. comparisons.Select(comparison => Compare(database, comparison, earlier, later, most, cancel))];
        }
        catch (Exception error) when (error is TableException or SqlException)
        {
            throw new RefusedException(new Refusal(Outcome.ReportFailed, $"the runs cannot be compared: {error.Message}"), error);
        }
    }

    private List<Comparison> Comparisons(string? pull, IReadOnlyList<string> key)
    {
        if (pull is not null && !runs.Job.Pulls.Any(other => other.Name == pull))
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"the job has no pull '{pull}'")
                {
                    NextStep = $"name one of {string.Join(", ", runs.Job.Pulls.Select(other => other.Name))}",
                });
        return [.. runs.Job.Pulls
            .Where(other => pull is null || other.Name == pull)
            .Select(other => key.Count > 0 ? new Comparison(other.Name, other.Place, key, [])
                : runs.Job.Comparisons.FirstOrDefault(comparison => comparison.Pull == other.Name) ?? new Comparison(
                    other.Name, other.Place, KeyColumns.Of(other), []))
            .Where(comparison => comparison.Key.Count > 0)];
    }

    private PullDifference Compare(
        Database database, Comparison comparison, RunRecord before, RunRecord now, int most, CancellationToken cancel)
    {
        var pull = runs.Job.Pulls.First(other => other.Name == comparison.Pull);
        var columns = Stage(database, PullTable.Present, pull, now, [], cancel);
        var columnsBefore = Stage(database, ComparisonTables.Before, pull, before, columns, cancel);
        new ComparisonTables(database).Create(comparison, columns, columnsBefore);
        var name = Database.Quoted(pull.Name);
        var keys = string.Join(", ", comparison.Key.Select(Database.Quoted));
        var texts = string.Join(", ", comparison.Key.Select(column => Database.Quoted(column) + "::varchar"));
        var lines = new List<DifferenceLine>();
        foreach (var (what, schema) in new[] { ("added", "added"), ("removed", "removed") })
            lines.AddRange(
                database.All($"select {texts} from {schema}.{name} order by {keys} limit {most}").Select(
                    row => new DifferenceLine(what, row, null, null, null)));
        lines.AddRange(
            database.All($"select {texts}, \"column\", before, now from changed.{name} order by {keys}, \"column\" limit {most}").Select(
                row => new DifferenceLine("changed", row[..^3], row[^3], row[^2], row[^1])));
        return new PullDifference(
            pull.Name,
            comparison.Key,
            Count(database, $"added.{name}"),
            Count(database, $"removed.{name}"),
            Count(database, $"(select distinct {keys} from changed.{name})"),
            lines);
    }

    private IReadOnlyList<KnownColumn> Stage(
        Database database, string schema, Pull pull, RunRecord run, IReadOnlyList<KnownColumn> lastSeen, CancellationToken cancel)
    {
        var landings = new RunHistory(runs.Records, () => run, runs.Folder, options).Present(pull);
        try
        {
            return new PullTable(database, schema).Stage(
                pull, landings.Read(pull.Name), run.Columns.GetValueOrDefault(pull.Name) ?? lastSeen, cancel);
        }
        finally
        {
            landings.DisposeAsync().AsTask().GetAwaiter().GetResult();
        }
    }

    private static long Count(Database database, string from) =>
        long.Parse(database.All($"select count(*)::varchar from {from}")[0][0]!, CultureInfo.InvariantCulture);
}
