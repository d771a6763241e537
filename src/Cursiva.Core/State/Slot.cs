namespace Cursiva.Core.State;

/// <summary>One of the slots of a window, as one request took it.</summary>
/// <param name="HeldUntil">When it is free again if its holder is never heard of again; tells this holder from the next one.</param>
public sealed record Slot(SlotWindow Window, int Place, DateTimeOffset HeldUntil);
