namespace Cursiva.Core.Runs;

/// <summary>How far a pull of a run is that goes on.</summary>
/// <param name="Total">Rows in all; null where the API does not tell.</param>
/// <param name="Strands">Strands that have ended; null where there is one.</param>
public sealed record PulledSoFar(string Pull, long Rows, long Pages, long? Total, long? Strands, long Skips);
