namespace Cursiva.Core.Runs;

/// <summary>A strand that was skipped.</summary>
/// <param name="Strand">What tells it apart, for people.</param>
/// <param name="Status">The status of the answer; 0 for a refused sign-in.</param>
/// <param name="Said">The API's own words.</param>
public sealed record SkipLine(string Pull, string Strand, int Status, string Because, string Said, string Request);
