using Cursiva.Core.Jobs.Shape;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the reports.</summary>
internal sealed class ReportReader(Reading reading)
{
    private static readonly string[] s_suffixes = [".csv", ".jsonl"];

    public IReadOnlyList<Report> Reports(SectionReader top)
    {
        var reports = new List<Report>();
        var paths = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (name, _, node) in top.Children(JobKeys.Reports))
        {
            var section = new SectionReader(top.File, node, JobKeys.ReportSection, $"report '{name}'", reading);
            var (place, indent) = SqlPlace(section);
            reports.Add(new Report(name, section.Place, section.Text(JobKeys.Sql) ?? "", place, indent, [.. Files(section, paths)]));
        }

        return reports;
    }

    private IEnumerable<Template> Files(SectionReader section, HashSet<string> paths)
    {
        foreach (var (text, place) in section.RawTexts(JobKeys.Write))
        {
            if (reading.FillBut(text, place, Job.RunNames) is not { } file)
                continue;
            if (!s_suffixes.Any(suffix => text.EndsWith(suffix, StringComparison.OrdinalIgnoreCase)))
                reading.Add(place, $"'{text}' has no known suffix", $"end it with {string.Join(" or ", s_suffixes)}");
            if (Path.IsPathRooted(text) || text.Split('/').Contains(".."))
                reading.Add(place, $"'{text}' leaves the folder of the reports", "write a path below out:, and set out: to the folder");
            if (!paths.Add(file.Text))
                reading.Add(place, $"'{text}' is written twice", "give each file its own name");
            yield return file;
        }
    }

    // A block scalar begins on the line after its '|', indented by what its first line is indented by.
    private static (Place Place, int Indent) SqlPlace(SectionReader section)
    {
        var at = section.At(JobKeys.Sql);
        if (section.Node(JobKeys.Sql) is not YamlScalarNode { Style: ScalarStyle.Literal or ScalarStyle.Folded } || section.File.Root is null)
            return (at, -1);

        var lines = System.Text.Encoding.UTF8.GetString(section.File.Bytes).Split('\n');
        var first = at.Line;
        while (first < lines.Length && string.IsNullOrWhiteSpace(lines[first]))
            first++;
        var indent = first < lines.Length ? lines[first].Length - lines[first].TrimStart(' ').Length : 0;
        return (new Place(at.File, at.Line + 1, 1), indent);
    }
}
