using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;
using Cursiva.Core.Tests.Tables;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Spreadsheet;

namespace Cursiva.Core.Tests.Reports;

public sealed class WorkbookTests : IDisposable
{
    private readonly ReportFixture _fixture = new();

    public void Dispose() => _fixture.Dispose();

    [Fact]
    public void The_head_is_frozen_and_bold_with_a_filter_and_columns_are_as_wide_as_their_values()
    {
        _fixture.WriteFiles([ReportFixture.Table("select 'Harrowgate Basin and more' as depot, 1 as n")], ["out.xlsx"]);
        using var document = SpreadsheetDocument.Open(_fixture["out.xlsx"], false);
        var book = document.WorkbookPart!;
        var sheet = ((WorksheetPart)book.GetPartById(book.Workbook!.Sheets!.Elements<Sheet>().First().Id!.Value!)).Worksheet!;
        var pane = sheet.Descendants<Pane>().ShouldHaveSingleItem();
        (pane.VerticalSplit!.Value, pane.State!.InnerText).ShouldBe((1, "frozen"));
        sheet.Descendants<AutoFilter>().ShouldHaveSingleItem().Reference!.Value.ShouldBe("A1:B2");
        sheet.Descendants<DocumentFormat.OpenXml.Spreadsheet.Column>().Select(column => column.Width!.Value).ShouldBe([27, 8]);
        var head = (int)sheet.Descendants<Cell>().First().StyleIndex!.Value;
        var styles = book.WorkbookStylesPart!.Stylesheet!;
        var font = (int)styles.CellFormats!.Elements<CellFormat>().ElementAt(head).FontId!.Value;
        styles.Fonts!.Elements<Font>().ElementAt(font).Bold.ShouldNotBeNull();
    }

    [Fact]
    public void A_full_sheet_is_followed_by_another()
    {
        using (var file = File.Create(_fixture["out.xlsx"]))
        {
            var columns = ResultColumn.Describe(_fixture.Database, "select i from range(25) r(i)");
            using var writer = new XlsxWriter(file, new Report("r", new Place("job"), "R", [ReportFixture.Table("")], [], CsvForm.Plain, null), ReportFixture.Context, mostRows: 11);
            writer.Begin(new PartHead(ReportFixture.PartOf("Every depot's [rows]", PartKind.Table, ""), columns, [], null));
            using (var rows = _fixture.Database.Query(ResultColumn.AsText(columns, "select i from range(25) r(i)")))
            {
                while (rows.Read())
                    writer.Row(rows);
            }

            writer.EndPart();
            writer.End();
        }

        var sheets = ReadBack.Xlsx(_fixture["out.xlsx"]);
        sheets.ConvertAll(sheet => sheet.Name).ShouldBe(["Every depot's  rows", "Every depot's  rows (2)", "Every depot's  rows (3)", "About"]);
        sheets.ConvertAll(sheet => sheet.Cells.Count)[..3].ShouldBe([11, 11, 6]);
        sheets[1].Cells["A2"].Value.ShouldBe("10");
        sheets[2].Cells["A6"].Value.ShouldBe("24");
    }

    [Fact]
    public void What_XML_cannot_hold_is_kept_all_the_same()
    {
        _fixture.WriteFiles([ReportFixture.Table("select chr(1) || 'a' || chr(13) || '_x0041_ <&>\"' || chr(65534) as t, ' padded ' as p")], ["out.xlsx"]);
        var cells = ReadBack.Xlsx(_fixture["out.xlsx"])[0].Cells;
        cells["A2"].Value.ShouldBe("_x0001_a_x000D__x005F_x0041_ <&>\"_xFFFE_");
        cells["B2"].Value.ShouldBe(" padded ");
    }

    [Fact]
    public void A_text_that_no_cell_holds_is_cut_with_a_note_and_whole_in_other_formats()
    {
        _fixture.WriteFiles([ReportFixture.Table("select 'x' as t union all select repeat('é', 32767) union all select repeat('é', 32768)")], ["out.xlsx", "out.csv"]);
        var sheets = ReadBack.Xlsx(_fixture["out.xlsx"]);
        sheets[0].Cells["A3"].Value.ShouldBe(new string('é', 32767));
        sheets[0].Cells["A4"].Value.Length.ShouldBe(32767);
        sheets[0].Cells["A4"].Value.ShouldEndWith("é [cut: 32,768 characters]");
        sheets[1].Cells.Values.ShouldContain(cell => cell.Value.StartsWith("Note: column 't' has texts longer than the 32,767 characters of a cell (1, the first in row 3)"));
        File.ReadAllText(_fixture["out.csv"]).ShouldContain(new string('é', 32768));
    }

    [Fact]
    public void Figures_words_and_warnings_stand_on_a_sheet_of_their_own_in_front()
    {
        var context = ReportFixture.Context with { Skips = [new SkippedLine("scans", "no licence", 1, ["tenant T9"])], Warnings = ["the columns have changed"] };
        _fixture.WriteFiles(
            [
                ReportFixture.PartOf("Late", PartKind.Figure, "select 12", unit: "consignments"),
                ReportFixture.PartOf("Depots", PartKind.Table, "select 'a' as depot"),
                ReportFixture.PartOf("Note", PartKind.Text, null, words: "First.\n\nSecond."),
            ],
            ["out.xlsx"],
            before: new ReportTotals(new() { ["r/Late"] = "10" }, []),
            context: context);
        var sheets = ReadBack.Xlsx(_fixture["out.xlsx"]);
        sheets.ConvertAll(sheet => sheet.Name).ShouldBe(["Summary", "Depots"]);
        var texts = sheets[0].Cells.Values.Select(cell => cell.Value).ToList();
        texts.ShouldContain("The report");
        texts.ShouldContain("12");
        texts.ShouldContain("+2, +20.0 % since 2 March 2026");
        texts.ShouldContain("Note: 1 skipped in scans: no licence (tenant T9).");
        texts.ShouldContain("Note: The columns have changed.");
        texts.ShouldContain("Second.");
    }
}
