namespace Cursiva.Core.Landing;

/// <summary>One line of the page index: where a page's rows are, and how its strand goes on.</summary>
/// <param name="Strand">From 0.</param>
/// <param name="Page">From 0, within the strand.</param>
/// <param name="Length">Bytes of its rows, each with its line break.</param>
/// <param name="Checksum">XXH64 of those bytes.</param>
/// <param name="Next">Link or cursor of the page that follows; null when the strand has ended.</param>
public sealed record LandedPage(string Pull, int Strand, int Page, int Segment, long Offset, int Length, int Rows, long Checksum, string? Next);
