using System.Globalization;

namespace Cursiva.Core.Jobs;

/// <summary>Which landings are kept: those of the last good runs, by count or by age.</summary>
/// <param name="Count">Good runs, from 1; null when an age counts.</param>
/// <param name="Age">How old a good run may be; the last one is kept however old.</param>
public sealed record Keep(int? Count, TimeSpan? Age)
{
    /// <summary>What <c>retain:</c> has to look like, for messages.</summary>
    public const string Right = "write a number of good runs from 1, or an age: 3, 30d";

    /// <summary>What is kept when a job says nothing.</summary>
    public static Keep Default { get; } = new(3, null);

    /// <summary>Reads a count or an age; null for anything else.</summary>
    public static Keep? TryParse(string text) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var count) ? count >= 1 ? new Keep(count, null) : null
        : Durations.TryParse(text) is { } age && age > TimeSpan.Zero ? new Keep(null, age)
        : null;

    /// <inheritdoc/>
    public override string ToString() => Count is { } count ? count == 1 ? "the last good run" : $"the last {count} good runs" : $"good runs of the last {Durations.ForPeople(Age!.Value)}";
}
