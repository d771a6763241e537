namespace Cursiva.Core.State;

/// <summary>One of the slots of a window.</summary>
public sealed record Slot(SlotWindow Window, int Place);
