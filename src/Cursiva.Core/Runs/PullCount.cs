namespace Cursiva.Core.Runs;

/// <summary>What a pull landed, and how much of it an earlier start had landed already.</summary>
public sealed record PullCount(string Pull, long Rows, long Pages, long RowsBefore);
