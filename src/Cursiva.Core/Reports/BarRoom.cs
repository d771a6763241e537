namespace Cursiva.Core.Reports;

/// <summary>How much room the values behind lying bars take.</summary>
internal static class BarRoom
{
    // Of the font that charts are drawn in, at its size there; pixels.
    private const double Letter = 7.5;
    private const double Gaps = 60;
    private const double Least = .1;

    /// <summary>The share of the longest bar by which the axis goes on, so that the longest value fits after it.</summary>
    /// <param name="width">Of the whole drawing, in pixels.</param>
    /// <param name="shorten">Makes a label as short as it is drawn.</param>
    public static double ForValues(ChartData data, int width, Func<string, string> shorten)
    {
        if (data.Series.Count != 1)
            return Least;
        var value = (data.Series[0].Values
            .Where(value => !double.IsNaN(value))
            .Select(value => ChartWords.Shown(value).Length)
            .DefaultIfEmpty(0)
            .Max() * Letter) + 12;
        var bars = width - Gaps - (data.Labels.Select(label => shorten(label).Length).DefaultIfEmpty(0).Max() * Letter);
        return Math.Max(Least, value / Math.Max(value, bars - value));
    }
}
