namespace Cursiva.Core.Jobs;

/// <summary>A file that a report is written to.</summary>
/// <param name="Path">Below the folder of the reports.</param>
public sealed record ReportFile(Template Path, Place Place, FileFormat Format, FilePacking Packing);
