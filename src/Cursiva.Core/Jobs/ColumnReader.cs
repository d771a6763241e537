using Cursiva.Core.Jobs.Shape;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the declared columns of a pull.</summary>
/// <param name="zone">The zone of the API's times that come without an offset, or null.</param>
internal sealed class ColumnReader(Reading reading, string? zone)
{
    public IReadOnlyList<Column> Read(SectionReader pull)
    {
        var columns = new List<Column>();
        foreach (var (name, place, node) in pull.Children(PullKeys.Columns))
        {
            if (columns.Any(column => column.Name.Equals(name, StringComparison.OrdinalIgnoreCase)))
                reading.Add(place, $"column '{name}' is declared twice", "SQL ignores case; choose another name");
            var at = JsonPointer.ToField(name);
            ColumnType? type = null;
            string? own = null;
            if (node is YamlScalarNode { Value: { } word })
            {
                type = ParseType(word, pull.File.At(node));
            }
            else
            {
                var section = new SectionReader(pull.File, node, JobKeys.ColumnSection, $"column '{name}'", reading);
                at = section.Pointer(JobKeys.At) ?? at;
                type = section.Text(JobKeys.Type) is { } written ? ParseType(written, section.At(JobKeys.Type)) : null;
                own = section.Zone(JobKeys.ColumnZone)?.Id;
                if (own is not null && type is not ColumnType.Time)
                    reading.Add(
                        section.At(JobKeys.ColumnZone),
                        $"column '{name}' has a zone but is not a time",
                        "add type: time, or remove the zone");
            }

            columns.Add(new Column(name, at, type ?? ColumnType.Text, type == ColumnType.Time ? own ?? zone : null));
        }

        return columns;
    }

    private ColumnType? ParseType(string word, Place place)
    {
        if (JobKeys.Type.Choices.Contains(word))
            return Enum.Parse<ColumnType>(word, ignoreCase: true);
        reading.Add(place, $"'{word}' is not a column type", Nearest.Hint(word, JobKeys.Type.Choices, "types"));
        return null;
    }
}
