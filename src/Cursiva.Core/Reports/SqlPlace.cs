using Cursiva.Core.Jobs;

namespace Cursiva.Core.Reports;

/// <summary>Tells a place in a report's SQL as a place in the job file.</summary>
public static class SqlPlace
{
    /// <param name="position">Character in the SQL, from 0; null for the SQL as a whole.</param>
    public static Place Of(Report report, int? position)
    {
        // Only a block scalar stands in the file as it is in the SQL.
        if (position is not { } at || report.SqlIndent < 0 || at > report.Sql.Length)
            return report.SqlPlace;

        var before = report.Sql[..at];
        var line = before.Count(c => c == '\n');
        var column = at - (before.LastIndexOf('\n') + 1);
        return new Place(report.SqlPlace.File, report.SqlPlace.Line + line, report.SqlIndent + column + 1);
    }
}
