using System.Globalization;
using System.Text;

namespace Cursiva.Core.Operations;

/// <summary>Writes gauges in the text format of OpenMetrics 1.0.</summary>
internal sealed class OpenMetricsText
{
    private readonly StringBuilder _text = new();

    /// <summary>Adds a family of gauges; one without samples is named all the same.</summary>
    /// <param name="name">Its name, which ends with the unit where it has one.</param>
    public void Gauge(string name, string? unit, string help, IEnumerable<(string Labels, double Value)> samples)
    {
        _text.Append(CultureInfo.InvariantCulture, $"# TYPE {name} gauge\n");
        if (unit is not null)
            _text.Append(CultureInfo.InvariantCulture, $"# UNIT {name} {unit}\n");
        _text.Append(CultureInfo.InvariantCulture, $"# HELP {name} {help}\n");
        foreach (var (labels, value) in samples)
            _text.Append(CultureInfo.InvariantCulture, $"{name}{{{labels}}} {value:0.###}\n");
    }

    /// <summary>The text, with its end.</summary>
    public string End() => _text.Append("# EOF\n").ToString();

    /// <summary>A label and its value.</summary>
    public static string Label(string name, string value) =>
        $"{name}=\"{value.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal).Replace("\n", "\\n", StringComparison.Ordinal)}\"";
}
