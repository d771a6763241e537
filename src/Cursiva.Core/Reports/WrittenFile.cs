namespace Cursiva.Core.Reports;

/// <summary>A file of a report.</summary>
/// <param name="Rows">Rows in it, its header aside.</param>
public sealed record WrittenFile(string Report, string Path, long Bytes, long Rows)
{
    /// <summary>
    /// What its rows have in the column of <c>file-per:</c>; null where they have nothing there, or the report has one file for all.
    /// </summary>
    public string? Value { get; init; }
}
