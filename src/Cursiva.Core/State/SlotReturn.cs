namespace Cursiva.Core.State;

/// <summary>A slot whose request was answered, and when it may be taken again.</summary>
public sealed record SlotReturn(Slot Slot, DateTimeOffset FreeAt);
