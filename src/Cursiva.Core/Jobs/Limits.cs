namespace Cursiva.Core.Jobs;

/// <summary>What an API allows a client, and the share of it that the job uses.</summary>
/// <param name="Share">Above 0, at most 1.</param>
/// <param name="AtOnce">Requests at the same time; null when the API does not say.</param>
public sealed record Limits(IReadOnlyList<Rate> AtMost, double Share, int? AtOnce = null)
{
    /// <summary>The limits that the job keeps: the share of each, at least one request.</summary>
    public IReadOnlyList<Rate> Kept { get; } = [.. AtMost.Select(rate => rate with { Count = Math.Max(1, (int)(rate.Count * Share)) })];
}
