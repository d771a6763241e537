namespace Cursiva.Core.Reports;

/// <summary>The values of one series of a chart, one for each label; a value that is missing is not a number.</summary>
internal sealed record ChartSeries(string Name, double[] Values)
{
    /// <summary>The labels for which a row says that there is no value: a line has a gap there.</summary>
    public IReadOnlySet<int> Nulls { get; init; } = new HashSet<int>();
}
