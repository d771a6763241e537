namespace Cursiva.Core.Landing;

/// <summary>
/// Where the rows of a page are: as little of a <see cref="LandedPage"/> as reading them takes, since there may be millions.
/// </summary>
/// <param name="Page">From 0, within the strand.</param>
/// <param name="Length">Bytes of its rows, each with its line break.</param>
/// <param name="Checksum">XXH3 (64 bits) of those bytes.</param>
public readonly record struct LandedPlace(string Strand, int Page, int Segment, long Offset, int Length, int Rows, long Checksum);
