namespace Cursiva.Core.State;

/// <summary>One slot of every window, taken for one request.</summary>
/// <param name="LeavesIn">How long after the answer that brought it the request may leave, and not before; not positive for now.</param>
/// <param name="Latest">The window whose slot is free last.</param>
public sealed record Permit(IReadOnlyList<Slot> Slots, TimeSpan LeavesIn, SlotWindow? Latest);
