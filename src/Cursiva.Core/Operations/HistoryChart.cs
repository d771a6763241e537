using System.Globalization;
using System.Text;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Operations;

/// <summary>
/// Draws the runs of a job as a strip: a bar for each day, as high as the rows of its last run, coloured by how that ended.
/// </summary>
internal static class HistoryChart
{
    private const int BarWidth = 2;
    private const int Height = 26;

    /// <summary>The strip as SVG.</summary>
    /// <param name="days">How many days it shows, the last one that of <paramref name="at"/>.</param>
    public static string Draw(IReadOnlyList<HistoryLine> history, DateTimeOffset at, int days)
    {
        var most = Math.Max(1, history.Select(line => line.Rows).DefaultIfEmpty().Max());
        var svg = new StringBuilder(
            string.Create(
                CultureInfo.InvariantCulture,
                $"<svg class=\"strip\" viewBox=\"0 0 {days * BarWidth} {Height}\" width=\"{days * 3 / 2}\" height=\"{Height}\" role=\"img\" aria-label=\"{Words(history, days)}\"><path class=\"ground\" d=\"M0 {Height - 0.5}H{days * BarWidth}\"/>"));
        foreach (var day in history.GroupBy(line => (at.UtcDateTime.Date - line.StartedAt.UtcDateTime.Date).Days)
            .Where(day => day.Key >= 0 && day.Key < days)
            .OrderByDescending(day => day.Key))
        {
            // What went wrong on a day is not hidden by what went well.
            var line = day.LastOrDefault(run => run.State != RunPhase.Done) ?? day.Last();
            var height = Math.Max(3, (int)Math.Round((double)line.Rows / most * Height));
            svg.Append(
                CultureInfo.InvariantCulture,
                $"<rect class=\"{(line.State == RunPhase.Done ? "good" : "bad")}\" x=\"{(days - 1 - day.Key) * BarWidth}\" y=\"{Height - height}\" width=\"{BarWidth - 0.5}\" height=\"{height}\"/>");
        }

        return svg.Append("</svg>").ToString();
    }

    private static string Words(IReadOnlyList<HistoryLine> history, int days) =>
        $"{history.Count:N0} runs in {days} days, {history.Count(line => line.State != RunPhase.Done):N0} of them not done";
}
