using System.Text.Json.Serialization;

namespace Cursiva.Core.Operations;

/// <summary>All jobs of a state folder at one look.</summary>
/// <param name="At">When it was looked, in UTC.</param>
/// <param name="Days">How many days of history it has.</param>
public sealed record JobsLook(DateTimeOffset At, int Days, IReadOnlyList<JobStanding> Jobs)
{
    /// <summary>Where it was looked besides the state: whole paths, as a shell takes them.</summary>
    [JsonIgnore]
    public string Places { get; init; } = "";

    /// <summary>Whether somebody has to look at something.</summary>
    public bool IsFailing => Jobs.Any(job => job.Conditions.Count > 0);
}
