namespace Cursiva.Core.Runs;

/// <summary>How the rows of a pull differ between two runs.</summary>
/// <param name="Key">The columns that tell its rows apart.</param>
/// <param name="Added">Rows that only the later run has.</param>
/// <param name="Removed">Rows that only the earlier run has.</param>
/// <param name="Changed">Rows that both have, with other values.</param>
/// <param name="Lines">The first of them.</param>
public sealed record PullDifference(
    string Pull, IReadOnlyList<string> Key, long Added, long Removed, long Changed, IReadOnlyList<DifferenceLine> Lines);
