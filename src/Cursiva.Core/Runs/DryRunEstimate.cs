namespace Cursiva.Core.Runs;

/// <summary>How long a run would take.</summary>
/// <param name="From">What it is told from.</param>
public sealed record DryRunEstimate(string From, long Requests, TimeSpan Takes);
