namespace Cursiva.Core.State;

/// <summary>A slot whose request was answered.</summary>
/// <param name="FreeIn">How long from now until it may be taken again; negative where that was possible before.</param>
public sealed record SlotReturn(Slot Slot, TimeSpan FreeIn);
