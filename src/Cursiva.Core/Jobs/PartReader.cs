using System.Globalization;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the parts of reports and what must hold of their rows.</summary>
internal sealed class PartReader(Reading reading)
{
    public Part Read(string name, SectionReader section)
    {
        var words = section.RawText(ReportKeys.Words) is { } text
            ? reading.FillBut(text, section.At(ReportKeys.Words), Job.RunNames)
            : null;
        var kind = Kind(section, words is not null);
        var sql = SqlReader.Read(section, ReportKeys.PartSql);
        if (kind == PartKind.Text && !section.Has(ReportKeys.Words))
            reading.Add(section.Place, $"{section.Title} has no 'text'", "add text: with the text to show");
        if (kind != PartKind.Text && section.Has(ReportKeys.Words))
            reading.Add(
                section.At(ReportKeys.Words),
                $"{section.Title} has both text: and as: {section.Text(ReportKeys.As)}",
                "make two parts of it");
        if (kind == PartKind.Text && section.Has(ReportKeys.PartSql))
            reading.Add(section.At(ReportKeys.PartSql), $"{section.Title} has text: and sql:", "make two parts of it");
        if (kind != PartKind.Text && !section.Has(ReportKeys.PartSql))
            reading.Add(section.Place, $"{section.Title} has no 'sql'", "add sql: with one SELECT over the tables");
        return new Part(
            name,
            section.Place,
            kind,
            section.Text(ReportKeys.PartTitle) ?? Titled(name),
            kind == PartKind.Text ? null : sql ?? new SqlSource("", section.Place, -1),
            words,
            section.Text(ReportKeys.Unit),
            Requirements(section))
        {
            Thresholds = [.. Thresholds(section, kind)],
        };
    }

    public Requirements Requirements(SectionReader section)
    {
        if (section.Inside(ReportKeys.Require, reading) is not { } require)
            return Jobs.Requirements.None;
        return new Requirements(
            require.Place,
            require.Whole(ReportKeys.AtLeast),
            require.Whole(ReportKeys.AtMost),
            require.Share(ReportKeys.RowsChange),
            [.. require.Texts(ReportKeys.NoNulls).Select(column => column.Text)],
            [.. require.Texts(ReportKeys.Unique).Select(column => column.Text)],
            [.. Within(require)]);
    }

    /// <summary>A name as a title: <c>by-depot</c> becomes By depot.</summary>
    public static string Titled(string name)
    {
        var words = name.Replace('-', ' ').Replace('_', ' ').Trim();
        return words.Length == 0 ? name : char.ToUpperInvariant(words[0]) + words[1..];
    }

    private IEnumerable<(string, decimal, decimal)> Within(SectionReader require)
    {
        foreach (var column in require.RawTextsMap(ReportKeys.Within).GroupBy(item => item.Name))
        {
            var bounds = column.Select(
                item => decimal.TryParse(
                    reading.Fill(item.Text, item.Place),
                    NumberStyles.Float,
                    CultureInfo.InvariantCulture,
                    out var bound) ? bound : (decimal?)null).ToList();
            if (bounds is [{ } lowest, { } highest] && lowest <= highest)
                yield return (column.Key, lowest, highest);
            else
                reading.Add(
                    column.First().Place,
                    $"'{string.Join(", ", column.Select(item => item.Text))}' is not a range for '{column.Key}'",
                    "write the lowest and the highest value: [0, 40000]");
        }
    }

    private IEnumerable<Threshold> Thresholds(SectionReader section, PartKind kind)
    {
        if (section.Has(ReportKeys.Mark) && kind is not (PartKind.Bar or PartKind.StackedBar or PartKind.Line))
            reading.Add(
                section.At(ReportKeys.Mark),
                $"{section.Title} has mark: but is not a bar, stacked-bar or line",
                "use mark: only in such a chart");
        foreach (var (name, place, text) in section.RawTextMap(ReportKeys.Mark))
        {
            if (double.TryParse(
                name, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var value))
                yield return new Threshold(value, reading.Fill(text, place));
            else
                reading.Add(
                    place,
                    $"mark in {section.Title} must have numbers before the colons, not '{name}'",
                    $"write the value and its label: {ReportKeys.Mark.Example}");
        }
    }

    private static PartKind Kind(SectionReader section, bool hasWords) =>
        section.Choice(ReportKeys.As) is { } word ? Enum.Parse<PartKind>(
            word.Replace("-", ""), ignoreCase: true) : hasWords ? PartKind.Text : PartKind.Table;
}
