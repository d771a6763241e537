using System.Globalization;
using System.Numerics;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Spreadsheet;
using DocumentFormat.OpenXml.Validation;
using Parquet;

namespace Cursiva.Core.Tests.Reports;

/// <summary>Reads files back with other libraries than wrote them.</summary>
internal static class ReadBack
{
    /// <summary>The rows of a Parquet file, as text; null for null.</summary>
    public static async Task<List<Dictionary<string, string?>>> ParquetAsync(string path)
    {
        using var file = File.OpenRead(path);
        await using var reader = await ParquetReader.CreateAsync(file, new ParquetOptions { UseBigDecimal = true });
        var rows = new List<Dictionary<string, string?>>();
        for (var group = 0; group < reader.RowGroupCount; group++)
        {
            using var row = reader.OpenRowGroupReader(group);
            foreach (var field in reader.Schema.GetDataFields())
            {
                var values = await ParquetColumn.ReadAsync(row, field);
                for (var i = 0; i < values.Count; i++)
                {
                    if (rows.Count <= i)
                        rows.Add([]);
                    rows[i][field.Name] = values[i];
                }
            }
        }

        return rows;
    }

    /// <summary>The sheets of a workbook with their cells, by reference; checks first that the workbook is a valid one.</summary>
    public static List<(string Name, Dictionary<string, XlsxValue> Cells)> Xlsx(string path)
    {
        using var document = SpreadsheetDocument.Open(path, isEditable: false);
        new OpenXmlValidator().Validate(document).Select(error => $"{error.Part?.Uri} {error.Path?.XPath}: {error.Description}").ShouldBeEmpty();
        var book = document.WorkbookPart!;
        var formats = book.WorkbookStylesPart!.Stylesheet!;
        return [.. book.Workbook!.Sheets!.Elements<Sheet>().Select(sheet =>
        {
            var part = (WorksheetPart)book.GetPartById(sheet.Id!.Value!);
            var cells = part.Worksheet!.Descendants<Cell>().ToDictionary(cell => cell.CellReference!.Value!, cell => new XlsxValue(
                cell.DataType?.Value == CellValues.InlineString ? "text" : cell.DataType?.Value == CellValues.Boolean ? "boolean" : "number",
                cell.DataType?.Value == CellValues.InlineString ? cell.InlineString!.InnerText : cell.CellValue!.Text,
                FormatOf(formats, cell)));
            return (sheet.Name!.Value!, cells);
        })];
    }

    private static string FormatOf(Stylesheet styles, Cell cell)
    {
        var id = styles.CellFormats!.Elements<CellFormat>().ElementAt((int)(cell.StyleIndex?.Value ?? 0)).NumberFormatId!.Value;
        return styles.NumberingFormats!.Elements<NumberingFormat>().FirstOrDefault(format => format.NumberFormatId!.Value == id)?.FormatCode!.Value ?? id.ToString(CultureInfo.InvariantCulture);
    }

    /// <summary>A Parquet value as text, digits and all.</summary>
    public static string? Text(object? value) => value switch
    {
        null => null,
        BigInteger big => big.ToString(CultureInfo.InvariantCulture),
        bool flag => flag ? "true" : "false",
        DateTime time => time.ToString("yyyy-MM-ddTHH:mm:ss.FFFFFF", CultureInfo.InvariantCulture),
        byte[] bytes => System.Text.Encoding.UTF8.GetString(bytes),
        IFormattable formattable => formattable.ToString(null, CultureInfo.InvariantCulture),
        _ => value.ToString(),
    };
}
