using System.Globalization;

namespace Cursiva.Core.Http;

/// <summary>
/// The pause that an answer's rate-limit fields ask for: the RateLimit field of the IETF draft "RateLimit header fields for HTTP"
/// in its newer (<c>"name";r=0;t=30</c>) and older (<c>limit=…, remaining=0, reset=30</c>) form, and the three separate fields
/// RateLimit-Remaining and -Reset that came before it, with or without X-.
/// </summary>
public static class RateLimitHeader
{
    // Above this, a reset is a moment (seconds since 1970) and no number of seconds.
    private const double EarliestMoment = 1_000_000_000;

    /// <summary>How long nothing should be sent; null when something is left, or the answer does not say.</summary>
    public static TimeSpan? Read(Answer answer, DateTimeOffset now)
    {
        if (answer.Header("RateLimit") is { } field)
            return Longest(field.Split(',').Select(part => part.Contains('=') ? part : "").Where(part => part.Length > 0).ToList(), now);
        return Pause(
            answer.Header("RateLimit-Remaining") ?? answer.Header("X-RateLimit-Remaining"),
            answer.Header("RateLimit-Reset") ?? answer.Header("X-RateLimit-Reset"),
            now);
    }

    private static TimeSpan? Longest(List<string> parts, DateTimeOffset now)
    {
        // The older form spreads one policy over the commas; the newer one has a policy a member.
        IEnumerable<IEnumerable<string>> policies = parts.Any(part => part.Contains(';')) ? parts.Select(part => part.Split(';')) : [parts];
        TimeSpan? longest = null;
        foreach (var policy in policies)
        {
            var values = policy.Select(item => item.Split('=', 2)).Where(pair => pair.Length == 2)
                .ToLookup(pair => pair[0].Trim().ToLowerInvariant(), pair => pair[1].Trim());
            var pause = Pause(
                (values["r"].Concat(values["remaining"])).FirstOrDefault(), values["t"].Concat(values["reset"]).FirstOrDefault(), now);
            if (pause > (longest ?? TimeSpan.Zero))
                longest = pause;
        }

        return longest;
    }

    private static TimeSpan? Pause(string? remaining, string? reset, DateTimeOffset now)
    {
        if (!long.TryParse(remaining, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var left) || left > 0
            || !double.TryParse(
                reset, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var seconds) || seconds > 100_000_000_000)
        {
            return null;
        }

        var pause = seconds >= EarliestMoment ? DateTimeOffset.UnixEpoch.AddSeconds(seconds) - now : TimeSpan.FromSeconds(seconds);
        return pause > TimeSpan.Zero ? pause : null;
    }
}
