namespace Cursiva.Core.State;

/// <summary>One declared limit of one client at one API.</summary>
/// <param name="Bucket">Names API, client and window; the same in every process.</param>
/// <param name="Count">Slots that there are.</param>
/// <param name="Window">How long a slot stays taken after its answer; zero for requests at once.</param>
public sealed record SlotWindow(string Bucket, int Count, TimeSpan Window)
{
    private static readonly TimeSpan s_furthestAhead = TimeSpan.FromMilliseconds(500);

    /// <summary>
    /// How long before it is free a slot can be taken, so that a slow disk is waited for before the slot is free, not after.
    /// </summary>
    public TimeSpan Ahead => Window / 2 < s_furthestAhead ? Window / 2 : s_furthestAhead;
}
