namespace Cursiva.Core.State;

/// <summary>Tells one landing of a pull from another: as many pages and rows, and the same checksums.</summary>
/// <param name="Checksums">The sum of the pages' checksums, each by the place of its page, modulo 2^64.</param>
/// <param name="Strands">Strands that were begun, and twice as many for each that was skipped.</param>
public sealed record LandingSum(string Pull, long Pages, long Rows, long Checksums, long Strands);
