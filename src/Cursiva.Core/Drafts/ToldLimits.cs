using System.Globalization;
using System.Text.RegularExpressions;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>
/// The limits that an answer's headers tell: the RateLimit-Policy field of the IETF draft, and the older RateLimit-Limit with a window.
/// </summary>
internal static partial class ToldLimits
{
    /// <summary>The limits as <c>at-most:</c> has them; null where none is told with its window.</summary>
    public static string? In(IReadOnlyList<KeyValuePair<string, string>> headers)
    {
        var text = string.Join(
            ", ",
            headers.Where(header => header.Key.ToLowerInvariant() is "ratelimit-policy" or "ratelimit-limit" or "x-ratelimit-policy")
                .Select(
                header => header.Value));
        List<string> rates = [.. Policy()
            .Matches(text)
            .Select(match => Of(match.Groups["count"].Value, match.Groups["window"].Value))
            .OfType<string>()
            .Distinct()];
        return rates.Count switch { 0 => null, 1 => rates[0], _ => $"[{string.Join(", ", rates)}]" };
    }

    private static string? Of(string count, string seconds) =>
        int.TryParse(count, NumberStyles.None, CultureInfo.InvariantCulture, out var most) && most is > 0 and <= 1_000_000 && int.TryParse(
            seconds, NumberStyles.None, CultureInfo.InvariantCulture, out var window) && window > 0
            ? new Rate(most, TimeSpan.FromSeconds(window)).ToString().Replace(" s", "s", StringComparison.Ordinal) is var text
                && Rate.TryParse(
                text) is not null ? text : $"{most} per {window}s"
            : null;

    // 100;w=60, "name";q=100;w=60
    [GeneratedRegex(@"(?:(?:^|[\s,])(?<count>\d+)|q\s*=\s*(?<count>\d+))\s*;(?:[^,]*?;)?\s*w\s*=\s*(?<window>\d+)")]
    private static partial Regex Policy();
}
