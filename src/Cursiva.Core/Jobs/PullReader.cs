using Cursiva.Core.Jobs.Shape;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the pulls.</summary>
internal sealed class PullReader(Reading reading)
{
    public IReadOnlyList<Pull> Pulls(SectionReader top, Dictionary<string, Api> apis)
    {
        var pulls = new List<Pull>();
        foreach (var (name, place, node) in top.Children(JobKeys.Pulls))
        {
            if (!IsTableName(name))
                reading.Add(place, $"'{name}' cannot name a pull", "use letters, digits and _, beginning with a letter: the name becomes an SQL table");
            else if (pulls.Any(pull => pull.Name.Equals(name, StringComparison.OrdinalIgnoreCase)))
                reading.Add(place, $"pull '{name}' is declared twice", "SQL tells no upper case from lower; choose another name");
            pulls.Add(ReadPull(name, new SectionReader(top.File, node, JobKeys.PullSection, $"pull '{name}'", reading), apis));
        }

        if (top.Has(JobKeys.Pulls) && pulls.Count == 0)
            reading.Add(top.At(JobKeys.Pulls), "the job pulls nothing", "declare a pull with get: and rows:");
        return pulls;
    }

    private Pull ReadPull(string name, SectionReader section, Dictionary<string, Api> apis)
    {
        var api = section.Text(JobKeys.PullApi);
        if (api is not null && !apis.ContainsKey(api))
            reading.Add(section.At(JobKeys.PullApi), $"no api is named '{api}'", Nearest.Hint(api, apis.Keys, "apis"));
        else if (api is null && apis.Count != 1)
            reading.Add(section.Place, $"{section.Title} does not say which API it asks", apis.Count == 0 ? "declare one under apis:" : $"add api: with one of {string.Join(", ", apis.Keys)}");

        var get = section.RawText(JobKeys.Get) ?? "";
        new PathCheck(reading).Check(section, JobKeys.Get, get);
        return new Pull(
            name,
            section.Place,
            api ?? apis.Keys.FirstOrDefault() ?? "",
            get,
            section.Pointer(JobKeys.Rows) ?? JsonPointer.TryParse("")!,
            ReadPaging(section),
            ReadColumns(section));
    }

    private Paging ReadPaging(SectionReader pull)
    {
        if (pull.Node(JobKeys.Paging) is not { } node)
            return new Paging(null, null, null, null);

        var section = new SectionReader(pull.File, node, JobKeys.PagingSection, $"paging of {pull.Title}", reading);
        var (link, cursor, parameter) = (section.Has(JobKeys.NextLink), section.Has(JobKeys.Cursor), section.Has(JobKeys.Parameter));
        if (link && cursor)
            reading.Add(section.Place, $"{section.Title} has both next-link and cursor", "keep the one that the API documents");
        if (cursor != parameter)
            reading.Add(section.Place, $"{section.Title} has {(cursor ? "cursor without parameter" : "parameter without cursor")}", "give both: where a page has the cursor, and the query parameter that takes it");
        if (!link && !cursor && node is YamlMappingNode)
            reading.Add(section.Place, $"{section.Title} does not say how to find the next page", "add next-link:, or cursor: and parameter:");
        return new Paging(section.Pointer(JobKeys.NextLink), section.Pointer(JobKeys.Cursor), section.Text(JobKeys.Parameter), section.Pointer(JobKeys.Total));
    }

    private List<Column> ReadColumns(SectionReader pull)
    {
        var columns = new List<Column>();
        foreach (var (name, place, node) in pull.Children(JobKeys.Columns))
        {
            if (columns.Any(column => column.Name.Equals(name, StringComparison.OrdinalIgnoreCase)))
                reading.Add(place, $"column '{name}' is declared twice", "SQL tells no upper case from lower; choose another name");
            var at = JsonPointer.ToField(name);
            ColumnType? type = null;
            if (node is YamlScalarNode { Value: { } word })
            {
                type = ParseType(word, pull.File.At(node));
            }
            else
            {
                var section = new SectionReader(pull.File, node, JobKeys.ColumnSection, $"column '{name}'", reading);
                at = section.Pointer(JobKeys.At) ?? at;
                type = section.Text(JobKeys.Type) is { } written ? ParseType(written, section.At(JobKeys.Type)) : null;
            }

            columns.Add(new Column(name, at, type ?? ColumnType.Text));
        }

        return columns;
    }

    private ColumnType? ParseType(string word, Place place)
    {
        if (JobKeys.Type.Choices.Contains(word))
            return Enum.Parse<ColumnType>(word, ignoreCase: true);
        reading.Add(place, $"'{word}' is no column type", Nearest.Hint(word, JobKeys.Type.Choices, "types"));
        return null;
    }

    private static bool IsTableName(string name) =>
        name.Length is > 0 and <= 60 && char.IsAsciiLetter(name[0]) && name.All(c => char.IsAsciiLetterOrDigit(c) || c == '_');
}
