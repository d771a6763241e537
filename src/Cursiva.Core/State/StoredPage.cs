namespace Cursiva.Core.State;

/// <summary>A page of a landing, as it is told to other machines.</summary>
/// <param name="Strand">Names the strand; empty for a pull's only one.</param>
/// <param name="Page">From 0, within the strand.</param>
/// <param name="Length">Bytes of its rows.</param>
/// <param name="Checksum">XXH3 (64 bits) of those bytes.</param>
/// <param name="Next">Where the strand goes on; null when it has ended.</param>
/// <param name="IsPiece">Whether it is a piece of a stream that goes on.</param>
/// <param name="Mark">The highest value of its rows, for marks.</param>
/// <param name="Ended">Why the strand ended with it; null while it goes on.</param>
/// <param name="Told">The rows in all that the API told.</param>
/// <param name="ETag">What the API called this state of the strand.</param>
/// <param name="Lines">Gives its rows as JSON lines; only good until the next page is asked for.</param>
public sealed record StoredPage(
    string Pull,
    string Strand,
    int Page,
    int Rows,
    int Length,
    long Checksum,
    string? Next,
    bool IsPiece,
    string? Mark,
    string? Ended,
    long? Told,
    string? ETag,
    Func<ReadOnlyMemory<byte>> Lines) : StoredChange;
