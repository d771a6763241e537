namespace Cursiva.Core.State;

/// <summary>One slot of every window, taken for one request.</summary>
/// <param name="LeavesAt">The request may leave then and not before.</param>
/// <param name="Latest">The window whose slot is free last.</param>
public sealed record Permit(IReadOnlyList<Slot> Slots, DateTimeOffset LeavesAt, SlotWindow? Latest);
