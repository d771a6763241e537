using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>Pulls that brought nothing though that can hardly be right: reports that read them are not written over good ones.</summary>
internal sealed class EmptyPulls
{
    private readonly Dictionary<string, string> _why = new(StringComparer.OrdinalIgnoreCase);
    private readonly Job _job;
    private readonly Database _database;

    public EmptyPulls(Job job, RunLanding landing, RunHistory history, Database database)
    {
        (_job, _database) = (job, database);
        foreach (var pull in job.Pulls.Where(pull => !pull.MayBeEmpty))
        {
            var reasons = landing.SkipReasons(pull.Name);
            var skipped = reasons.Sum(reason => reason.Strands);
            if (skipped > 0 && skipped == landing.StrandCount(pull.Name))
                _why[pull.Name] =
                    $"{(skipped == 1 ? "its only strand was" : $"all of its {skipped:N0} strands were")} skipped ({reasons[0].Because})";
            else if (!pull.GoesOnFromRuns
                && history.LastGood is { } last
                && last.Rows.GetValueOrDefault(pull.Name) is > 0 and var before
                && landing.CountOf(pull.Name).Rows == 0)
                _why[pull.Name] = $"it returned no rows, but run {last.Number} had {before:N0}";
        }
    }

    /// <summary>Why a report is not written; null when it may be.</summary>
    public Refusal? Objection(Report report) =>
        EmptyAmong(report.Parts.Select(part => part.Sql?.Text).OfType<string>()) is { } read
            ? Refuse($"report '{report.Name}' was not written", read, "the files of the last good run are unchanged")
            : null;

    /// <summary>Why nothing is changed by a write; null when it may be.</summary>
    public Refusal? Objection(Write write) =>
        EmptyAmong([write.Sql.Text]) is { } read
            ? Refuse($"write '{write.Name}' changed nothing", read, "missing rows would count as deleted")
            : null;

    private string? EmptyAmong(IEnumerable<string> sql) => _why.Count == 0 ? null : sql.SelectMany(Tables).FirstOrDefault(_why.ContainsKey);

    private Refusal Refuse(string what, string read, string cause) => new(
        Outcome.ReportFailed, $"{what}: pull '{read}' is empty, since {_why[read]}")
    {
        Cause = cause,
        NextStep = $"find out why; if that is right, add allow-empty: true to pull '{read}', and write the reports with cursiva report",
    };

    // Queries read tables, too, and those above them.
    private IEnumerable<string> Tables(string sql)
    {
        foreach (var table in SqlText.Read(_database, sql).Tables.Where(table => table.Schema.Length == 0))
        {
            if (_job.Queries.FirstOrDefault(query => query.Name.Equals(table.Name, StringComparison.OrdinalIgnoreCase)) is not { } query)
                yield return _job.Pulls.FirstOrDefault(
                    pull => pull.Name.Equals(table.Name, StringComparison.OrdinalIgnoreCase))?.Name ?? table.Name;
            else if (query.Sql.Text != sql)
                foreach (var below in Tables(query.Sql.Text))
                    yield return below;
        }
    }
}
