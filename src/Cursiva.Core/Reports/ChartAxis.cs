using System.Globalization;

namespace Cursiva.Core.Reports;

/// <summary>The axis of a line's values.</summary>
/// <param name="Note">That it does not reach zero, for people; empty when it does.</param>
internal sealed record ChartAxis(double Low, double High, string Note)
{
    // Values that fill less of an axis from zero than this are seen better on one of their own.
    private const double LeastFilled = 1 / 3.0;

    private const double Air = .08;

    // Counts that differ by one or two would have marks between them that no count can have.
    private const double LeastSteps = 4;

    /// <summary>
    /// An axis from zero, which makes no change look larger than it is, or one that fits values far from it, and says so.
    /// </summary>
    /// <param name="values">Values and marks.</param>
    public static ChartAxis Of(IEnumerable<double> values)
    {
        var known = values.Where(value => !double.IsNaN(value)).DefaultIfEmpty(0).ToList();
        var (least, most) = (known.Min(), known.Max());
        var range = most - least;
        if (range > 0 && (least > 0 || most < 0) && range < Math.Max(Math.Abs(least), Math.Abs(most)) * LeastFilled)
        {
            // A step that its labels can say in few digits.
            var step = Math.Pow(10, Math.Floor(Math.Log10(range))) / 2;
            if (known.TrueForAll(double.IsInteger) && range < LeastSteps)
                (least, most, step) = (least > 0 ? Math.Max(0, least - 1) : least - 1, Math.Max(most, least - 1 + LeastSteps), 1);
            var (low, high) = (Round(Math.Floor((least / step) + 1e-9) * step), Round(Math.Ceiling((most / step) - 1e-9) * step));
            return new ChartAxis(
                low, high, least > 0 ? $"the axis begins at {Text(low)}, not at 0" : $"the axis ends at {Text(high)}, not at 0");
        }

        var (from, to) = (Math.Min(0, least), Math.Max(0, most));
        var air = Math.Max((to - from) * Air, 1e-9);
        return new ChartAxis(from < 0 ? from - air : 0, to > 0 || from == 0 ? to + air : 0, "");
    }

    private static double Round(double value) =>
        double.Parse(value.ToString("G12", CultureInfo.InvariantCulture), CultureInfo.InvariantCulture);

    private static string Text(double value) => ReportWords.Figure(value.ToString(CultureInfo.InvariantCulture));
}
