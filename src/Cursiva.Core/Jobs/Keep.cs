using System.Globalization;

namespace Cursiva.Core.Jobs;

/// <summary>Which landings are kept: those of the last good runs, by count, age or size.</summary>
/// <param name="Count">Good runs, from 1; null when something else counts.</param>
/// <param name="Age">How old a good run may be; the last one is kept however old.</param>
/// <param name="Bytes">What the landings of good runs may take together; the last one is kept however large.</param>
public sealed record Keep(int? Count, TimeSpan? Age, long? Bytes = null)
{
    /// <summary>What <c>retain:</c> has to look like, for messages.</summary>
    public const string Right = "write a number of good runs from 1, an age, or a size: 3, 30d, 20 GB";

    private static readonly (string Unit, long Bytes)[] s_units = [("MB", 1_000_000), ("GB", 1_000_000_000), ("TB", 1_000_000_000_000)];

    /// <summary>What is kept when a job says nothing.</summary>
    public static Keep Default { get; } = new(3, null);

    /// <summary>Reads a count, an age or a size; null for anything else.</summary>
    public static Keep? TryParse(string text) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var count) ? count >= 1 ? new Keep(count, null) : null
        : Durations.TryParse(text) is { } age && age > TimeSpan.Zero ? new Keep(null, age)
        : Size(text) is { } bytes and > 0 ? new Keep(null, null, bytes)
        : null;

    /// <inheritdoc/>
    public override string ToString() =>
        Count is { } count ? count == 1 ? "the last good run" : $"the last {count} good runs"
        : Age is { } age ? $"good runs of the last {Durations.ForPeople(age)}"
        : string.Create(CultureInfo.InvariantCulture, $"good runs up to {Bytes / 1_000_000_000.0:0.###} GB");

    private static long? Size(string text)
    {
        foreach (var (unit, bytes) in s_units)
        {
            if (text.EndsWith(unit, StringComparison.Ordinal)
                && double.TryParse(text[..^2].TrimEnd(' '), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
                && number * bytes < long.MaxValue)
                return (long)(number * bytes);
        }

        return null;
    }
}
