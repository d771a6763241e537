namespace Cursiva.Core.Reports;

/// <summary>The stretches of a line between its gaps.</summary>
internal static class ChartLine
{
    // Days of months and hours of days differ by less.
    private const double SameStep = .15;

    // So many of the steps are alike where something is measured at regular times.
    private const double Regular = .6;

    private const double LongestStep = 1.6;

    /// <summary>
    /// The points of a series in order, parted where a row has no value, and where a time is missing among regular ones: a line
    /// across would show what nobody measured.
    /// </summary>
    public static List<List<(double At, double Value)>> Stretches(double[] at, ChartSeries series, bool isTime)
    {
        var order = Enumerable.Range(0, at.Length).Where(place => !double.IsNaN(at[place])).OrderBy(place => at[place]).ToList();
        var step = isTime ? UsualStep([.. order.Where(place => !double.IsNaN(series.Values[place])).Select(place => at[place])]) : null;
        var stretches = new List<List<(double At, double Value)>>();
        List<(double At, double Value)>? stretch = null;
        foreach (var place in order)
        {
            if (double.IsNaN(series.Values[place]))
            {
                stretch = series.Nulls.Contains(place) ? null : stretch;
                continue;
            }

            if (stretch is null || at[place] - stretch[^1].At > step * LongestStep)
                stretches.Add(stretch = []);
            stretch.Add((at[place], series.Values[place]));
        }

        return stretches;
    }

    // Null where there is none.
    private static double? UsualStep(double[] at)
    {
        var steps = at.Zip(at.Skip(1)).Select(pair => pair.Second - pair.First).Where(step => step > 0).Order().ToList();
        if (steps.Count < 3)
            return null;
        var median = steps[steps.Count / 2];
        return steps.Count(step => Math.Abs(step - median) <= median * SameStep) >= steps.Count * Regular ? median : null;
    }
}
