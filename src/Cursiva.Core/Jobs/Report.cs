namespace Cursiva.Core.Jobs;

/// <summary>SQL over landed rows, laid out in parts and written to files.</summary>
/// <param name="FilePer">The column that tells the files apart, one for each of its values; null for one file of all rows.</param>
public sealed record Report(
    string Name, Place Place, string Title, IReadOnlyList<Part> Parts, IReadOnlyList<ReportFile> Files, CsvForm Csv, string? FilePer)
{
    /// <summary>The part that a file of rows holds: the only table, or the only chart.</summary>
    public Part? OnlyTable =>
        Parts.Where(part => part.Kind == PartKind.Table).ToList() is [var table] ? table
        : Parts.Where(part => part.IsTable).ToList() is [var chart] ? chart
        : null;
}
