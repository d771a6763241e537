namespace Cursiva.Core.Landing;

/// <summary>Strands of a pull that were skipped for the same reason.</summary>
/// <param name="Strands">How many.</param>
/// <param name="First">The first few of them, in order.</param>
public sealed record SkipReason(string Pull, string Because, long Strands, IReadOnlyList<LandedStrand> First);
