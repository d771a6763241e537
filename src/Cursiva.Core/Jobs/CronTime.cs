using System.Globalization;
using System.Text.Json.Serialization;
using Cronos;

namespace Cursiva.Core.Jobs;

/// <summary>One cron expression of five fields: minute, hour, day of the month, month, day of the week.</summary>
/// <param name="Text">As it is written.</param>
public sealed record CronTime(string Text, [property: JsonIgnore] CronExpression Expression)
{
    /// <summary>What an expression has to look like, for messages.</summary>
    public const string Right = "write five fields: minute, hour, day of the month, month, day of the week; such as 30 6 * * 1-5";

    private static readonly Dictionary<string, string> s_days = new(StringComparer.Ordinal)
    {
        ["daily"] = "*",
        ["weekdays"] = "1-5",
        ["weekends"] = "6,0",
        ["mon"] = "1",
        ["tue"] = "2",
        ["wed"] = "3",
        ["thu"] = "4",
        ["fri"] = "5",
        ["sat"] = "6",
        ["sun"] = "0",
    };

    /// <summary>The words for days.</summary>
    public static IReadOnlyCollection<string> Days => s_days.Keys;

    /// <summary>Reads an expression; null for anything else.</summary>
    public static CronTime? TryParse(string text) =>
        text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Length == 5 && CronExpression.TryParse(
            text, CronFormat.Standard, out var expression)
            ? new CronTime(text, expression)
            : null;

    /// <summary>A time of day on some days; null where one of them is none.</summary>
    /// <param name="at">Hours and minutes, <c>06:30</c>.</param>
    /// <param name="days">Words of <see cref="Days"/>; daily where there are none.</param>
    public static CronTime? TryParse(string at, IReadOnlyCollection<string> days) =>
        TimeOnly.TryParseExact(at, ["HH:mm", "H:mm"], CultureInfo.InvariantCulture, DateTimeStyles.None, out var time) && days.All(
            s_days.ContainsKey)
            ? TryParse(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{time.Minute} {time.Hour} * * {(days.Count == 0 || days.Contains("daily") ? "*" : string.Join(',', days.Select(day => s_days[day]).Distinct()))}"))
            : null;
}
