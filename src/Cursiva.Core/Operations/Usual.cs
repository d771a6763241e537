namespace Cursiva.Core.Operations;

/// <summary>
/// What a job's good runs usually have. A run is unusual where it is beyond all of the last twenty good runs before it, and less than half
/// or more than twice their median; with fewer than five of them, nothing is unusual.
/// </summary>
/// <param name="Median">The middle one.</param>
/// <param name="Least">The lowest.</param>
/// <param name="Most">The highest.</param>
public sealed record Usual(double Median, double Least, double Most)
{
    /// <summary>How many good runs are looked at.</summary>
    public const int Runs = 20;

    /// <summary>Fewer say nothing.</summary>
    public const int Fewest = 5;

    /// <summary>What the values of earlier runs say; null where there are too few.</summary>
    /// <param name="earlier">Values, the newest last.</param>
    public static Usual? Of(IEnumerable<double> earlier)
    {
        List<double> values = [.. earlier.TakeLast(Runs).Order()];
        return values.Count < Fewest
            ? null
            : new Usual((values[(values.Count - 1) / 2] + values[values.Count / 2]) / 2, values[0], values[^1]);
    }

    /// <summary>Whether a value is unusual.</summary>
    /// <param name="slack">Less than so much beside the median is never unusual.</param>
    public bool IsUnusual(double value, double slack = 0) =>
        (value < Least || value > Most) && (value < Median / 2 || value > Median * 2) && Math.Abs(value - Median) > slack;
}
