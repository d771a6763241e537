namespace Cursiva.Cli.Commands;

/// <summary>What the command line allows a run.</summary>
internal sealed record RunLimits(TimeSpan? Deadline, long? MaxRequests, bool Full, string? Trace, bool NoDeliveries, string? Metrics)
{
    /// <summary>Whether other machines may work on the run as well.</summary>
    public bool Together { get; init; }

    public static RunLimits None { get; } = new(null, null, false, null, false, null);
}
