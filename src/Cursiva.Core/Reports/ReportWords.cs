using System.Globalization;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Reports;

/// <summary>What every format for people says in the same words.</summary>
internal static class ReportWords
{
    // Between thousands, so that no reader takes it for a decimal sign.
    private const char Narrow = '\u202F';

    /// <summary>From what a report was made, and when.</summary>
    public static string MadeFrom(ReportContext context)
    {
        var hosts = context.Sources.Select(source => source.Host).Distinct().ToList();
        var rows = string.Join(", ", context.Sources.Select(source => $"{Grouped(source.Rows)} {source.Pull}"));
        return $"Run {context.Number} of {context.Job}, {context.StartedAt.ToString("d MMMM yyyy, HH:mm", CultureInfo.InvariantCulture)} ({context.Zone.Id}), from {string.Join(" and ", hosts)}: {rows}.{(context.Unproven.Count > 0 ? $" Nothing proves that all rows came of {string.Join("; ", context.Unproven)}." : "")}";
    }

    /// <summary>What readers should know before they trust the numbers.</summary>
    public static IEnumerable<string> Warnings(ReportContext context)
    {
        foreach (var skip in context.Skips)
            yield return $"{Grouped(skip.Strands)} skipped in {skip.Pull}: {skip.Because} ({string.Join(", ", skip.First)}{(skip.Strands > skip.First.Count ? $" and {Grouped(skip.Strands - skip.First.Count)} more" : "")}).";
        foreach (var warning in context.Warnings)
            yield return char.ToUpperInvariant(warning[0]) + warning[1..] + ".";
    }

    /// <summary>A figure's value: a number with its thousands apart, a text as it is.</summary>
    public static string Figure(string? value) => value is null ? "none" : Grouped(value);

    /// <summary>The values that a chart marks, as a sentence for where it is not drawn; empty when there are none.</summary>
    public static string Thresholds(Part part) =>
        part.Thresholds.Count == 0
            ? ""
            : $"Marked: {string.Join(", ", part.Thresholds.Select(threshold => $"{threshold.Words} ({Grouped(threshold.Value.ToString(CultureInfo.InvariantCulture))})"))}.";

    public static string Grouped(long value) => Grouped(value.ToString(CultureInfo.InvariantCulture));

    /// <summary>How a figure has changed since the last good run; empty when that is not known.</summary>
    public static string Change(string? value, string? before, ReportContext context)
    {
        if (context.BeforeNumber is null || before is null || value is null)
            return "";
        var since = $"since {context.BeforeDay}";
        if (value == before)
            return $"unchanged {since}";
        if (!decimal.TryParse(value, NumberStyles.Float, CultureInfo.InvariantCulture, out var now)
            || !decimal.TryParse(before, NumberStyles.Float, CultureInfo.InvariantCulture, out var was))
            return $"was {Grouped(before)} {since}";
        try
        {
            var difference = now - was;
            var percent = was == 0 ? "" : $", {Signed(decimal.Round(difference / Math.Abs(was) * 100, 1))} %";
            return $"{Signed(difference)}{percent} {since}";
        }
        catch (OverflowException)
        {
            return $"was {Grouped(before)} {since}";
        }
    }

    private static string Signed(decimal value) =>
        (value < 0 ? "\u2212" : "+") + Grouped(Math.Abs(value).ToString(CultureInfo.InvariantCulture));

    private static string Grouped(string number)
    {
        var start = number.StartsWith('-') ? 1 : 0;
        var end = number.IndexOf('.', start) is > 0 and var point ? point : number.Length;
        if (!number.AsSpan(start, end - start).ContainsAnyExceptInRange('0', '9') && end - start > 3)
        {
            for (var at = end - 3; at > start; at -= 3)
                number = number.Insert(at, Narrow.ToString());
        }

        return number;
    }
}
