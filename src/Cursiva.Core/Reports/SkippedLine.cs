namespace Cursiva.Core.Reports;

/// <summary>Strands that were skipped for one reason, as readers of a report are told.</summary>
/// <param name="Strands">How many.</param>
/// <param name="First">What tells the first few of them apart.</param>
public sealed record SkippedLine(string Pull, string Because, long Strands, IReadOnlyList<string> First);
