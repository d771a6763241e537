namespace Cursiva.Core.Reports;

/// <summary>A pull that a report was made from.</summary>
/// <param name="Host">Where its rows came from.</param>
public sealed record SourceLine(string Pull, string Host, long Rows);
