using System.Globalization;

namespace Cursiva.Core.Jobs;

/// <summary>
/// Durations as a job writes them: a number and a unit, <c>250ms</c>, <c>30s</c>, <c>10m</c>, <c>2h</c>, <c>7d</c>, <c>2w</c>.
/// </summary>
public static class Durations
{
    /// <summary>What a duration has to look like, for messages.</summary>
    public const string Right = "write a number and a unit: 30s, 10m, 2h or 7d";

    /// <summary>Reads a duration such as 30s; null for anything else.</summary>
    public static TimeSpan? TryParse(string text)
    {
        var digits = text.TakeWhile(c => char.IsAsciiDigit(c) || c == '.').Count();
        if (digits == 0
            || !double.TryParse(text.AsSpan(0, digits), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number))
            return null;

        double? seconds = text[digits..] switch
        {
            "ms" => 0.001,
            "s" => 1,
            "m" => 60,
            "h" => 3600,
            "d" => 86_400,
            "w" => 604_800,
            _ => null,
        };
        return seconds is { } unit && number * unit <= 315_576_000_000 ? TimeSpan.FromSeconds(number * unit) : null;
    }

    /// <summary>A duration for people: <c>0.4 s</c>, <c>12 s</c>, <c>3 min 05 s</c>, <c>2 h 10 min</c>.</summary>
    public static string ForPeople(TimeSpan span) => span.TotalSeconds switch
    {
        < 0.0005 => "0 s",
        < 0.95 =>
            $"{Math.Max(0.001, span.TotalSeconds).ToString(span.TotalSeconds < 0.0995 ? "0.###" : "0.##", CultureInfo.InvariantCulture)} s",
        < 9.95 => $"{span.TotalSeconds.ToString("0.0", CultureInfo.InvariantCulture)} s",
        < 59.5 => $"{Math.Round(span.TotalSeconds).ToString(CultureInfo.InvariantCulture)} s",
        < 3570 => $"{(int)(span.TotalSeconds + 0.5) / 60} min {(int)(span.TotalSeconds + 0.5) % 60:D2} s",
        < 172_800 => $"{(int)(span.TotalMinutes + 0.5) / 60} h {(int)(span.TotalMinutes + 0.5) % 60:D2} min",
        _ => $"{(int)span.TotalDays} days",
    };
}
