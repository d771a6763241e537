using System.Globalization;

namespace Cursiva.StandIn;

/// <summary>At most <paramref name="Count"/> requests in any sliding <paramref name="Window"/>.</summary>
public sealed record WindowLimit(int Count, TimeSpan Window)
{
    /// <summary>Reads <c>COUNT/SECONDS</c>, for example <c>100/1</c> or <c>36000/3600</c>.</summary>
    /// <exception cref="FormatException">The text has another shape.</exception>
    public static WindowLimit Parse(string text)
    {
        var parts = text.Split('/');
        if (parts.Length == 2
            && int.TryParse(parts[0], NumberStyles.None, CultureInfo.InvariantCulture, out var count)
            && double.TryParse(parts[1], NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var seconds)
            && count > 0 && seconds > 0)
        {
            return new WindowLimit(count, TimeSpan.FromSeconds(seconds));
        }

        throw new FormatException($"'{text}' is not a limit; write COUNT/SECONDS, for example 100/1");
    }
}
