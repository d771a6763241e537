namespace Cursiva.Core.Reports;

/// <summary>A strand that was passed over, as readers of a report are told.</summary>
/// <param name="Strand">What tells it apart.</param>
/// <param name="Status">The status of the answer; 0 for a refused sign-in.</param>
public sealed record SkippedLine(string Pull, string Strand, int Status, string Because);
