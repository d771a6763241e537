namespace Cursiva.Core.Reports;

/// <summary>A file of a report.</summary>
/// <param name="Rows">Rows in it, its header aside.</param>
public sealed record WrittenFile(string Report, string Path, long Bytes, long Rows);
