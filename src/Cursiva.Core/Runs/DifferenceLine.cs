namespace Cursiva.Core.Runs;

/// <summary>One difference: a row that is there in one run alone, or a value that changed.</summary>
/// <param name="What">added, removed or changed.</param>
/// <param name="Key">The values of the key's columns.</param>
/// <param name="Column">The column of a value that changed.</param>
public sealed record DifferenceLine(string What, IReadOnlyList<string?> Key, string? Column, string? Before, string? Now);
