namespace Cursiva.Core.Reports;

/// <summary>What is remembered of a run's reports, for the next run to compare with; by <c>report/part</c>.</summary>
/// <param name="Figures">The values of figures.</param>
/// <param name="Rows">The rows of parts.</param>
public sealed record ReportTotals(Dictionary<string, string?> Figures, Dictionary<string, long> Rows)
{
    /// <summary>No rows and no figures.</summary>
    public static ReportTotals None => new([], []);

    /// <summary>The name of a part among all reports.</summary>
    public static string NameOf(string report, string part) => $"{report}/{part}";
}
