namespace Cursiva.Core.Pulls;

/// <summary>What a scan found. The rows now stand in the page's buffer as JSON lines.</summary>
/// <param name="Start">First byte of the first line.</param>
/// <param name="Length">Bytes of all lines, each with its line break.</param>
/// <param name="Rows">Number of lines.</param>
/// <param name="Next">Link or cursor of the next page; null on the last one.</param>
/// <param name="Total">Rows in all, where the page tells.</param>
public readonly record struct PageScan(int Start, int Length, int Rows, string? Next, long? Total);
