using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>A report that cannot be written.</summary>
public sealed class ReportException(Refusal refusal, Exception? inner) : Exception(refusal.What, inner)
{
    /// <summary>What went wrong, why, and what to do next.</summary>
    public Refusal Refusal { get; } = refusal;

    /// <summary>What an error on the way means for a report; null for errors that are none of its.</summary>
    public static ReportException? Of(Exception error, Report report, string folder) => error switch
    {
        ReportException known => known,
        SqlException sql => new ReportException(
            new Refusal(Outcome.ReportFailed, $"the SQL of report '{report.Name}' failed: {sql.Message}")
            {
                NextStep = "correct the SQL, and write the reports with cursiva report; nothing is fetched again",
            },
            error),
        TableException table => new ReportException(
            new Refusal(Outcome.ReportFailed, $"report '{report.Name}' cannot be written as it is: {table.Message}"), error),
        IOException or UnauthorizedAccessException =>
            new ReportException(new Refusal(Outcome.ReportFailed, $"report '{report.Name}' cannot be written: {error.Message}")
            {
                Cause = "the folder is not writable for this user, or the disk is full",
                NextStep =
                $"make room, or make {folder} writable, or set out: to another folder, and write the reports with cursiva report; nothing is fetched again",
            }, error),
        _ => null,
    };

    /// <summary>Tells SQL that the engine refused, with its place and the columns that exist.</summary>
    public static Refusal SqlRefusal(Database database, Report report, Part part, SqlException error)
    {
        var where = report.Parts.Count == 1 ? $"report '{report.Name}'" : $"part '{part.Name}' of report '{report.Name}'";
        return new Refusal(Outcome.ReportFailed, $"{part.Sql!.At(error.Position)}: the SQL of {where} failed: {error.Message}")
        {
            Cause = error.Message.Contains("column", StringComparison.OrdinalIgnoreCase) ? TableColumns.Tell(
                database, part.Sql.Text) : null,
            NextStep = "correct the SQL, and write the reports with cursiva report; nothing is fetched again",
        };
    }

    /// <summary>Tells everything that does not hold of a report.</summary>
    public static Refusal RequirementRefusal(Report report, IReadOnlyList<string> failures) => new(
        Outcome.ReportFailed,
        $"report '{report.Name}' was not written, since a requirement failed: {string.Join("; ", failures)}")
    {
        Cause = "the files of the last good run are unchanged",
        NextStep = "check the rows; if they are right, change require: of the report, and write it with cursiva report",
    };
}
