namespace Cursiva.Core.State;

/// <summary>The permits taken, in the order in which they may be used, or how long until it is worth asking again.</summary>
/// <param name="Full">The window that had no slot left, when none were taken.</param>
public sealed record SlotAnswer(IReadOnlyList<Permit> Taken, TimeSpan Wait, SlotWindow? Full)
{
    /// <summary>By how much the machine's clock was set back since slots were taken last; null when it was not.</summary>
    public TimeSpan? SetBack { get; init; }
}
