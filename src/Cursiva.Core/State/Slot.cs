namespace Cursiva.Core.State;

/// <summary>One of the slots of a window, as one request took it.</summary>
/// <param name="Hold">Tells this holder from the next one.</param>
public sealed record Slot(SlotWindow Window, int Place, long Hold);
