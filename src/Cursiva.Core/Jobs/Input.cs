namespace Cursiva.Core.Jobs;

/// <summary>A named value that the job was given.</summary>
/// <param name="Value">The value as it is filled in.</param>
/// <param name="From">Where it came from, in words.</param>
/// <param name="Drifts">A relative time without a floor: it differs from one start to the next and so tells nothing about a new
/// period.</param>
public sealed record Input(string Name, string Value, string From, bool Drifts)
{
    /// <summary>Whether it is told from the run's start.</summary>
    public bool IsRelative { get; init; }
}
