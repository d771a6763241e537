namespace Cursiva.Core.Runs;

/// <summary>What a run would do.</summary>
/// <param name="LastRun">What the last good run took, under the limits as they are declared now; null when there was none.</param>
/// <param name="Probed">What one request to each listing lets expect; null when it was not needed or tells nothing.</param>
public sealed record DryRunAccount(IReadOnlyList<DryRunPull> Pulls, DryRunEstimate? LastRun, DryRunEstimate? Probed)
{
    /// <summary>What would leave the machine; null where nothing does, or no rows are landed.</summary>
    public LeavingAccount? Leaving { get; init; }
}
