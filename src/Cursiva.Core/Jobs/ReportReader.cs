using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the reports.</summary>
internal sealed class ReportReader(Reading reading, string jobTitle)
{
    private readonly HashSet<string> _paths = new(StringComparer.Ordinal);
    private readonly PartReader _parts = new(reading);

    public IReadOnlyList<Report> Reports(SectionReader top)
    {
        var children = top.Children(JobKeys.Reports);
        return [.. children.Select(
            child => Read(
                child.Name,
                new SectionReader(top.File, child.Value, ReportKeys.ReportSection, $"report '{child.Name}'", reading),
                children.Count == 1))];
    }

    private Report Read(string name, SectionReader section, bool isOnly)
    {
        var title = section.Text(ReportKeys.Title) ?? (isOnly ? jobTitle : PartReader.Titled(name));
        var filePer = section.Text(ReportKeys.FilePer);
        var report = new Report(
            name, section.Place, title, Parts(name, title, section), [.. Files(section, filePer)], Csv(section), filePer);
        foreach (var file in report.Files)
            Check(report, file);
        if (filePer is not null)
            CheckFilePer(report, section);
        return report;
    }

    private List<Part> Parts(string name, string title, SectionReader section)
    {
        if (section.Has(ReportKeys.Sql) == section.Has(ReportKeys.Parts))
        {
            reading.Add(
                section.Place,
                section.Has(ReportKeys.Sql) ? $"{section.Title} has both sql: and parts:" : $"{section.Title} has no 'sql'",
                "add sql: with one SELECT for a report of one table, or parts: for a page of several");
            return [];
        }

        if (section.Has(ReportKeys.Sql))
            return [new Part(
                name,
                section.Place,
                PartKind.Table,
                title,
                SqlReader.Read(section, ReportKeys.Sql) ?? new SqlSource("", section.Place, -1),
                null,
                null,
                _parts.Requirements(section))];
        if (section.Has(ReportKeys.Require))
            reading.Add(
                section.At(ReportKeys.Require),
                $"{section.Title} has parts, but require: is about the rows of one part",
                "move it into that part");
        return [.. section.Children(ReportKeys.Parts).Select(
            child => _parts.Read(
                child.Name,
                new SectionReader(section.File, child.Value, ReportKeys.PartSection, $"part '{child.Name}' of {section.Title}", reading)))];
    }

    private IEnumerable<ReportFile> Files(SectionReader section, string? filePer)
    {
        IReadOnlyList<string> names = filePer is null ? Job.RunNames : [.. Job.RunNames, filePer];
        foreach (var (text, place) in section.RawTexts(ReportKeys.Write))
        {
            if (reading.FillBut(text, place, names) is not { } path)
                continue;
            if (Path.IsPathRooted(text) || text.Split('/').Contains(".."))
                reading.Add(place, $"'{text}' is outside the reports' folder", "write a path below out:, and set out: to the folder");
            if (!_paths.Add(path.Text))
                reading.Add(place, $"'{text}' is written twice", "give each file its own name");
            if (FileSuffixes.Of(text) is { } found)
                yield return new ReportFile(path, place, found.Format, found.Packing);
            else
                reading.Add(place, $"'{text}' has no known suffix", $"end it with one of {FileSuffixes.All}");
        }
    }

    private void Check(Report report, ReportFile file)
    {
        if (file.Format.Holds == FormatHolds.OneChart && report.Parts.Count(part => part.IsChart) != 1)
            reading.Add(
                file.Place,
                $"'{file.Path.Text}' holds one chart, and report '{report.Name}' has {report.Parts.Count(part => part.IsChart)}",
                "write it in a report with one chart");
        if (file.Format.Holds == FormatHolds.OneTable && report.Parts.Count > 0 && report.OnlyTable is null)
            reading.Add(
                file.Place,
                $"'{file.Path.Text}' holds one table, and report '{report.Name}' has {report.Parts.Count(part => part.Kind == PartKind.Table)}",
                "write it in a report with sql:; views: give several reports the same rows");
    }

    private void CheckFilePer(Report report, SectionReader section)
    {
        if (report.Parts.Count > 1)
            reading.Add(
                section.At(ReportKeys.FilePer),
                $"{section.Title} has parts, but file-per: splits the rows of one table",
                "write it in a report with sql:");
        foreach (var file in report.Files.Where(file => !file.Path.Names.Contains(report.FilePer)))
            reading.Add(
                file.Place,
                $"'{file.Path.Text}' would be the same file for every value of {report.FilePer}",
                $"put {{{report.FilePer}}} into its name");
    }

    private CsvForm Csv(SectionReader report)
    {
        if (report.Inside(ReportKeys.Csv, reading) is not { } section)
            return CsvForm.Plain;
        var form = section.Choice(ReportKeys.Preset) == "spreadsheet" ? CsvForm.ForSpreadsheets : CsvForm.Plain;
        return form with
        {
            Delimiter = Delimiter(section) ?? form.Delimiter,
            Header = section.Switch(ReportKeys.Header) ?? form.Header,
            LineEnd = section.Choice(ReportKeys.LineEnds) switch { "lf" => "\n", "crlf" => "\r\n", _ => form.LineEnd },
            ByteOrderMark = section.Switch(ReportKeys.ByteOrderMark) ?? form.ByteOrderMark,
        };
    }

    private char? Delimiter(SectionReader section)
    {
        switch (section.Text(ReportKeys.Delimiter))
        {
            case null:
                return null;
            case "tab":
                return '\t';
            case [var c] when char.IsAscii(c) && c is not ('"' or '\r' or '\n'):
                return c;
            case { } other:
                reading.Add(section.At(ReportKeys.Delimiter), $"'{other}' is not a delimiter", "write one ASCII character, or tab");
                return null;
        }
    }
}
