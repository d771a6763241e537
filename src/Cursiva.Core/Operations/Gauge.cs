using System.Globalization;
using System.Text;

namespace Cursiva.Core.Operations;

/// <summary>A number with its labels: rows by pull.</summary>
/// <param name="Name">Its name, which ends with the unit where it has one; it stays as it is.</param>
/// <param name="Unit">seconds, bytes, days or ratio; null for a count.</param>
/// <param name="Help">What it is, for people.</param>
public sealed record Gauge(string Name, string? Unit, string Help, IReadOnlyList<GaugeSample> Samples)
{
    /// <summary>Gauges in the text format of OpenMetrics 1.0, ended by <c># EOF</c>.</summary>
    public static string Text(IEnumerable<Gauge> gauges)
    {
        var text = new StringBuilder();
        foreach (var gauge in gauges)
        {
            text.Append(CultureInfo.InvariantCulture, $"# TYPE {gauge.Name} gauge\n");
            if (gauge.Unit is not null)
                text.Append(CultureInfo.InvariantCulture, $"# UNIT {gauge.Name} {gauge.Unit}\n");
            text.Append(CultureInfo.InvariantCulture, $"# HELP {gauge.Name} {gauge.Help}\n");
            foreach (var sample in gauge.Samples)
                text.Append(
                    CultureInfo.InvariantCulture,
                    $"{gauge.Name}{{{string.Join(',', sample.Labels.Select(label => $"{label.Key}=\"{Escaped(label.Value)}\""))}}} {sample.Value:0.###}\n");
        }

        return text.Append("# EOF\n").ToString();
    }

    private static string Escaped(string value) =>
        value.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal).Replace(
            "\n", "\\n", StringComparison.Ordinal);
}
