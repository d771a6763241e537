using System.Globalization;

namespace Cursiva.Cli.Commands;

/// <summary>Days as a command line gives them.</summary>
internal static class Days
{
    /// <summary>The beginning of a day written YYYY-MM-DD, in UTC; null when the text is none.</summary>
    public static DateTimeOffset? TryParse(string? text) =>
        DateTimeOffset.TryParseExact(text, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var day)
            ? day
            : null;
}
