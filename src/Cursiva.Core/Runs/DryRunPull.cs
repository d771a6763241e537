using System.Text.Json.Serialization;

namespace Cursiva.Core.Runs;

/// <summary>The first request of a pull.</summary>
/// <param name="Asks">Method and address.</param>
/// <param name="Per">What it is repeated for; null when it is not.</param>
/// <param name="Pages">Pages that there are; null when it is not known.</param>
/// <param name="Took">How long the first page took, where it was fetched.</param>
public sealed record DryRunPull(string Pull, string Asks, string? Per, long? Pages, [property: JsonIgnore] TimeSpan Took)
{
    /// <summary>How long its request took, in seconds.</summary>
    public double TookS => Took.TotalSeconds;
}
