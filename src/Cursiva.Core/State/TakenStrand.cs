namespace Cursiva.Core.State;

/// <summary>A strand that this machine has taken.</summary>
/// <param name="Fence">Grows with every holder of the strand.</param>
/// <param name="IsAnew">Whether it starts over because the API had forgotten its place.</param>
/// <param name="HasPages">Whether pages of it have landed.</param>
public sealed record TakenStrand(StoredStrand Strand, long Fence, bool IsAnew, bool HasPages);
