using System.Text.Json.Nodes;
using Cursiva.Core.Jobs.Shape;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Reads what a pull is repeated for.</summary>
/// <param name="earlier">The pulls that stand above.</param>
internal sealed class PerReader(Reading reading, IReadOnlyList<Pull> earlier)
{
    public Per? Read(SectionReader pull)
    {
        if (pull.Node(PullKeys.Per) is null)
            return null;
        if (pull.Node(PullKeys.Per) is YamlScalarNode)
            return OfPull(pull);

        var section = pull.Inside(PullKeys.Per, reading)!;
        var pullName = section.Text(PerKeys.PerPull);
        var name = section.Text(PerKeys.PerName) ?? pullName ?? "";
        if (name.Length == 0 && !section.Has(PerKeys.PerName))
            reading.Add(
                section.Place,
                $"{section.Title} has no 'name'",
                $"add name: {PerKeys.PerName.Gist}, for example name: {PerKeys.PerName.Example}");
        if (pullName is not null && !earlier.Any(other => other.Name == pullName))
            reading.Add(
                section.At(PerKeys.PerPull),
                $"no pull above is named '{pullName}'",
                Nearest.Hint(pullName, [.. earlier.Select(other => other.Name)], "pulls"));
        if (name == Window.Head || (name != pullName && earlier.Any(other => other.Name == name)) || reading.Inputs.ContainsKey(name))
            reading.Add(
                section.At(PerKeys.PerName), $"'{name}' is already the name of a pull or input", "choose another name for the values");
        if (new[] { PerKeys.PerPull, PerKeys.PerList, PerKeys.PerFile, PerKeys.PerSql }.Count(section.Has) != 1)
            reading.Add(section.Place, $"{section.Title} needs exactly one of pull, list, file and sql", "give one of them");
        return new Per(name, section.Place)
        {
            Pull = pullName,
            List = section.Has(PerKeys.PerList) ? List(section) : null,
            File = section.Text(PerKeys.PerFile),
            Sql = section.Text(PerKeys.PerSql),
            Batch = section.Whole(PerKeys.PerBatch) ?? 1,
        };
    }

    private Per OfPull(SectionReader pull)
    {
        var name = pull.Text(PullKeys.Per)!;
        if (!earlier.Any(other => other.Name == name))
            reading.Add(
                pull.At(PullKeys.Per),
                $"no pull above is named '{name}'",
                Nearest.Hint(name, [.. earlier.Select(other => other.Name)], "pulls"));
        return new Per(name, pull.At(PullKeys.Per)) { Pull = name };
    }

    private JsonArray? List(SectionReader section)
    {
        if (new BodyReader(reading, section.File, new Scope([], false))
            .Read(section.Node(PerKeys.PerList)!)
            .AsWritten() is JsonArray { Count: > 0 } list
            && list.All(item => item is JsonObject) | list.All(item => item is JsonValue))
        {
            return list;
        }

        reading.Add(
            section.At(PerKeys.PerList),
            $"list in {section.Title} is not a list of texts, or of groups of keys",
            "write [north, south], or a list of NAME: VALUE groups");
        return null;
    }
}
