namespace Cursiva.Core.Landing;

/// <summary>One line of the page index: where a page's rows are, and how its strand goes on.</summary>
/// <param name="Strand">Empty for a pull's only strand; otherwise a <see cref="StrandKey"/>.</param>
/// <param name="Page">From 0, within the strand.</param>
/// <param name="Length">Bytes of its rows, each with its line break.</param>
/// <param name="Checksum">XXH3 (64 bits) of those bytes.</param>
/// <param name="Next">Where the strand goes on; null when it has ended.</param>
public sealed record LandedPage(
    string Pull, string Strand, int Page, int Segment, long Offset, int Length, int Rows, long Checksum, string? Next)
{
    /// <summary>A piece of a stream: it counts only together with those after it, up to one that is whole.</summary>
    public bool IsPiece { get; init; }

    /// <summary>Why the strand ended with this page; null while it goes on.</summary>
    public string? Ended { get; init; }

    /// <summary>The rows in all that the API told on the last page of a strand; null when it did not.</summary>
    public long? Told { get; init; }

    /// <summary>The highest value of the rows that marks depend on; null without one.</summary>
    public string? Mark { get; init; }

    /// <summary>
    /// What the API called this state of the listing, where the page is all of its strand (RFC 9110 section 8.8.3), behind a digest of what
    /// was asked.
    /// </summary>
    public string? ETag { get; init; }
}
