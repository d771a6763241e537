using System.Globalization;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>Marks: how far an incremental pull has got. Numbers are compared as numbers, times as times, anything else as text.</summary>
public static class Marks
{
    /// <summary>The highest value that rows have at a place; null when none has one.</summary>
    public static string? Highest(ReadOnlySpan<byte> lines, JsonPointer at)
    {
        string? highest = null;
        while (lines.Length > 0)
        {
            var end = lines.IndexOf((byte)'\n');
            highest = Higher(highest, JsonFind.Text(lines[..end], at));
            lines = lines[(end + 1)..];
        }

        return highest;
    }

    /// <summary>The higher one of two marks.</summary>
    public static string? Higher(string? one, string? other)
    {
        if (one is null || other is null)
            return one ?? other;
        if (Number(one) is { } a && Number(other) is { } b)
            return a >= b ? one : other;
        if (Time(one) is { } early && Time(other) is { } late)
            return early >= late ? one : other;
        return string.CompareOrdinal(one, other) >= 0 ? one : other;
    }

    /// <summary>The mark to ask from: moved back by the overlap where there is one.</summary>
    public static string From(string mark, string? overlap)
    {
        if (overlap is null)
            return mark;
        if (Durations.TryParse(overlap) is { } span && Time(mark) is { } time)
            return RelativeTime.Write(time - span);
        if (decimal.TryParse(overlap, NumberStyles.Number, CultureInfo.InvariantCulture, out var number)
            && decimal.TryParse(mark, NumberStyles.Number, CultureInfo.InvariantCulture, out var at))
            return (at - number).ToString(CultureInfo.InvariantCulture);
        return mark;
    }

    private static decimal? Number(string text) =>
        decimal.TryParse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
            ? number
            : null;

    private static DateTimeOffset? Time(string text) =>
        text.Length >= 10 && text[4] == '-' && DateTimeOffset.TryParse(
            text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var time)
            ? time
            : null;
}
