using ScottPlot;

namespace Cursiva.Core.Reports;

/// <summary>The colours of charts: told apart with every kind of colour vision (Okabe and Ito), on light and dark ground.</summary>
internal static class ChartColors
{
    /// <summary>Stands for the colour of the text around a chart; see <see cref="ChartDrawing.Svg"/>.</summary>
    public const string Ink = "#33474C";

    /// <summary>Lines at thresholds.</summary>
    public const string Threshold = "#B3541E";

    /// <summary>Bars of one series.</summary>
    public static Color Single { get; } = Color.FromHex("#2F7F79");

    private static readonly string[] s_series = ["#0072B2", "#E69F00", "#009E73", "#CC79A7", "#D55E00", "#56B4E9", "#B8A500"];

    /// <param name="isRest">Whether it is everything else together.</param>
    public static Color Series(int place, bool isRest) => Color.FromHex(isRest ? "#8A9599" : s_series[place % s_series.Length]);
}
