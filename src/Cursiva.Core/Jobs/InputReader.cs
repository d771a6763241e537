using Cursiva.Core.Jobs.Shape;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Gathers the inputs. What comes later wins: included files, the job, the environment, input files, the command line.</summary>
internal sealed class InputReader(Reading reading, TimeZoneInfo zone, DateTimeOffset now)
{
    /// <summary>Takes the inputs that a job or shared file declares.</summary>
    public void Declare(SectionReader section, string from)
    {
        foreach (var (name, place, node) in section.Children(JobKeys.Inputs))
        {
            if (name.Length == 0 || name.Any(c => !char.IsAsciiLetterOrDigit(c) && c is not ('-' or '_')))
                reading.Add(place, $"'{name}' cannot name an input", "use letters, digits, - and _");
            else
                Take(section.File, name, node, $"{from}, line {place.Line}");
        }
    }

    /// <summary>Takes values for declared inputs from outside.</summary>
    public void Override(GivenInputs given)
    {
        foreach (var (name, value) in given.OfRun.Where(pair => reading.Inputs.ContainsKey(pair.Key)))
            reading.Inputs[name] = new Input(name, value, "the run", Drifts: false);

        foreach (var name in reading.Inputs.Keys.ToArray())
        {
            var variable = GivenInputs.VariableFor(name);
            if (given.Environment(variable) is { } value)
                reading.Inputs[name] = new Input(name, value, $"environment variable {variable}", Drifts: false);
        }

        foreach (var path in given.FromFiles)
        {
            var file = YamlFile.Read(path, path, reading.Mistakes);
            foreach (var (key, node) in file.Root?.Children ?? Enumerable.Empty<KeyValuePair<YamlNode, YamlNode>>())
            {
                var name = (key as YamlScalarNode)?.Value ?? "";
                if (Known(name, file.At(key)))
                    Take(file, name, node, $"{path}, line {file.At(key).Line}");
            }
        }

        foreach (var (name, value) in given.Values)
        {
            if (Known(name, new Place("--input")))
                reading.Inputs[name] = new Input(name, value, "--input", Drifts: false);
        }
    }

    private bool Known(string name, Place place)
    {
        if (reading.Inputs.ContainsKey(name))
            return true;
        reading.Add(place, $"the job has no input '{name}'", Nearest.Hint(name, reading.Inputs.Keys, "inputs"));
        return false;
    }

    private void Take(YamlFile file, string name, YamlNode node, string from)
    {
        switch (node)
        {
            case YamlScalarNode { Value: { } text }:
                reading.Inputs[name] = new Input(name, text, from, Drifts: false);
                break;
            case YamlMappingNode:
                var section = new SectionReader(file, node, JobKeys.RelativeTimeSection, $"input '{name}'", reading);
                var ago = section.Duration(JobKeys.Ago);
                var floor = section.Choice(JobKeys.Floor) is { } word ? Enum.Parse<TimeFloor>(word, ignoreCase: true) : TimeFloor.None;
                var time = new RelativeTime(ago ?? TimeSpan.Zero, floor, section.Zone(JobKeys.TimeZone) ?? zone).Resolve(now);
                reading.Inputs[name] = new Input(name, RelativeTime.Write(time), from, Drifts: floor == TimeFloor.None)
                {
                    IsRelative = true,
                };
                break;
            default:
                reading.Add(file.At(node), $"input '{name}' is a list", "write a text, a number, or { ago: 7d, start-of: day }");
                break;
        }
    }
}
