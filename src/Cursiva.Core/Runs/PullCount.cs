namespace Cursiva.Core.Runs;

/// <summary>What a pull landed, and how much of it an earlier start had landed already.</summary>
public sealed record PullCount(string Pull, long Rows, long Pages, long RowsBefore)
{
    /// <summary>Strands that have ended, those skipped included; 0 for a pull that is not repeated.</summary>
    public long Strands { get; init; }

    /// <summary>Strands that were skipped.</summary>
    public long Skips { get; init; }
}
