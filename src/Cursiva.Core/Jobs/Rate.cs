using System.Globalization;

namespace Cursiva.Core.Jobs;

/// <summary>At most <paramref name="Count"/> requests in any sliding <paramref name="Window"/>.</summary>
public sealed record Rate(int Count, TimeSpan Window)
{
    /// <summary>What a rate has to look like, for messages.</summary>
    public const string Right = "write COUNT per second, minute, hour or day, or COUNT per DURATION: 100 per second, 600 per 10m";

    /// <summary>Reads <c>100 per second</c> or <c>600 per 10m</c>; null when the text is neither.</summary>
    public static Rate? TryParse(string text)
    {
        var words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (words.Length != 3 || words[1] != "per"
            || !int.TryParse(words[0], NumberStyles.None, CultureInfo.InvariantCulture, out var count) || count is < 1 or > 1_000_000)
        {
            return null;
        }

        TimeSpan? window = words[2] switch
        {
            "second" => TimeSpan.FromSeconds(1),
            "minute" => TimeSpan.FromMinutes(1),
            "hour" => TimeSpan.FromHours(1),
            "day" => TimeSpan.FromDays(1),
            var other => Durations.TryParse(other),
        };
        return window is { } span && span > TimeSpan.Zero ? new Rate(count, span) : null;
    }

    /// <inheritdoc/>
    public override string ToString() => Window switch
    {
        { TotalSeconds: 1 } => $"{Count} per second",
        { TotalMinutes: 1 } => $"{Count} per minute",
        { TotalHours: 1 } => $"{Count} per hour",
        { TotalDays: 1 } => $"{Count} per day",
        _ => $"{Count} per {Durations.ForPeople(Window)}",
    };
}
