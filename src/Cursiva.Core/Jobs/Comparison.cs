namespace Cursiva.Core.Jobs;

/// <summary>Compares the rows of a pull with those of the last good run.</summary>
/// <param name="Key">Columns of the pull's table that tell its rows apart.</param>
/// <param name="Ignore">Columns whose changes do not count.</param>
public sealed record Comparison(string Pull, Place Place, IReadOnlyList<string> Key, IReadOnlyList<string> Ignore);
