namespace Cursiva.Core.Pulls;

/// <summary>What follows a stream of rows.</summary>
/// <param name="Next">Where the strand continues after it; null when it has ended.</param>
/// <param name="Why">Why it has ended then.</param>
internal sealed record StreamEnd(string? Next, Ending Why)
{
    /// <summary>What tells the key by which the answer was verified; null where it was not.</summary>
    public string? VerifiedBy { get; init; }

    /// <summary>Looks at the number of rows before the last of them are landed; throws where the stream is not whole.</summary>
    public Func<long, Task>? Check { get; init; }

    /// <summary>Why the strand has ended; null when it goes on.</summary>
    public Ending? Ended => Next is null ? Why : null;
}
