using System.Globalization;

namespace Cursiva.Core.Reports;

/// <summary>Numbers and days as charts write them.</summary>
internal static class ChartWords
{
    /// <summary>A value: three digits or more are whole numbers.</summary>
    public static string Shown(double value)
    {
        var rounded = Math.Abs(value) >= 100 ? Math.Round(value) : value;
        return ReportWords.Figure(
            rounded.ToString(Math.Abs(value) is >= 1e15 or (> 0 and < 1e-4) ? "0.###e0" : "0.####", CultureInfo.InvariantCulture));
    }

    /// <summary>A value of an axis on which little differs.</summary>
    public static string Exact(double value) => ReportWords.Figure(Math.Round(value, 4).ToString("0.####", CultureInfo.InvariantCulture));

    /// <summary>A day is written the same everywhere, and a time only where there is one.</summary>
    public static string Day(DateTime at) =>
        at.ToString(at.TimeOfDay == TimeSpan.Zero ? "d MMM yyyy" : "d MMM HH:mm", CultureInfo.InvariantCulture);
}
