using Cursiva.Core.Apis;

namespace Cursiva.Core.Runs;

/// <summary>What is counted of a run over all its starts, for those who look back.</summary>
public sealed record RunFigures
{
    /// <summary>A run of which nothing was counted.</summary>
    public static RunFigures None { get; } = new();

    /// <summary>Requests by the status of their answers; <c>none</c> for those without a whole one.</summary>
    public Dictionary<string, long> Statuses { get; init; } = [];

    /// <summary>Attempts that were repeated.</summary>
    public long Retries { get; init; }

    /// <summary>Seconds spent waiting for limits and pauses.</summary>
    public double WaitedS { get; init; }

    /// <summary>Seconds by stage: pulls, reports (with their SQL, and writes), deliveries.</summary>
    public Dictionary<string, double> StagesS { get; init; } = [];

    /// <summary>The size of its landing on disk.</summary>
    public long LandedBytes { get; init; }

    /// <summary>The size of the report files that its last start wrote.</summary>
    public long FileBytes { get; init; }

    /// <summary>How much of the declared limits was in use when its last start ended.</summary>
    public IReadOnlyList<LimitUse> Limits { get; init; } = [];

    /// <summary>Deliveries and writes that its last start worked on, by what came of them.</summary>
    public Dictionary<string, int> Deliveries { get; init; } = [];

    /// <summary>These figures with those of an earlier start added.</summary>
    public RunFigures After(RunFigures earlier) => this with
    {
        Statuses = Sum(earlier.Statuses, Statuses, (one, other) => one + other),
        Retries = earlier.Retries + Retries,
        WaitedS = earlier.WaitedS + WaitedS,
        StagesS = Sum(earlier.StagesS, StagesS, (one, other) => one + other),
    };

    private static Dictionary<string, T> Sum<T>(Dictionary<string, T> earlier, Dictionary<string, T> now, Func<T, T, T> add)
    {
        var sum = new Dictionary<string, T>(earlier);
        foreach (var (name, value) in now)
            sum[name] = sum.TryGetValue(name, out var before) ? add(before, value) : value;
        return sum;
    }
}
