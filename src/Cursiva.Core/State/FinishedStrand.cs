namespace Cursiva.Core.State;

/// <summary>A strand that a machine is done with.</summary>
/// <param name="Fence">The fence that it was taken with.</param>
/// <param name="Result">What came of it, opaque here; its pages are in the landing.</param>
public sealed record FinishedStrand(string Pull, string Strand, long Fence, string Result);
