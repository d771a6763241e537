namespace Cursiva.Core.Jobs;

/// <summary>How the CSV files of a report are written (RFC 4180).</summary>
/// <param name="Delimiter">One ASCII character.</param>
/// <param name="LineEnd">CR LF or LF.</param>
/// <param name="Spreadsheet">Values are written so that a double-click opens the file correctly.</param>
public sealed record CsvForm(char Delimiter, bool Header, string LineEnd, bool ByteOrderMark, bool Spreadsheet)
{
    /// <summary>RFC 4180 as it stands.</summary>
    public static CsvForm Plain { get; } = new(',', true, "\r\n", false, false);

    /// <summary>For a double-click in a spreadsheet.</summary>
    public static CsvForm ForSpreadsheets { get; } = Plain with { ByteOrderMark = true, Spreadsheet = true };
}
