using System.Text.Json.Serialization;

namespace Cursiva.Core.Runs;

/// <summary>How long a run would take.</summary>
/// <param name="From">What it is told from.</param>
public sealed record DryRunEstimate(string From, long Requests, [property: JsonIgnore] TimeSpan Time)
{
    /// <summary>How long they would take, in seconds.</summary>
    public double TakesS => Time.TotalSeconds;
}
