namespace Cursiva.Core.State;

/// <summary>The slots taken, or how long until it is worth asking again.</summary>
/// <param name="Full">The window that had no slot left, when none were taken.</param>
public sealed record SlotAnswer(IReadOnlyList<Slot> Taken, TimeSpan Wait, SlotWindow? Full);
