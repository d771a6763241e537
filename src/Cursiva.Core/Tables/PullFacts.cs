namespace Cursiva.Core.Tables;

/// <summary>How a pull ended, as SQL is told.</summary>
/// <param name="Strands">The strands that ended; 1 for a pull that is not repeated.</param>
/// <param name="Told">The rows that the API told; null when it did not, or not of every strand.</param>
/// <param name="Ended">Why it ended, in words.</param>
/// <param name="Proven">Whether a count or an explicit end agrees with what came.</param>
public sealed record PullFacts(string Pull, long Strands, long Pages, long Rows, long? Told, string Ended, bool Proven);
