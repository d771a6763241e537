using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Checks the path of a pull or a probe.</summary>
internal sealed class PathCheck(Reading reading)
{
    /// <summary>Reports what is wrong with a path.</summary>
    public void Check(SectionReader section, Key key, string get)
    {
        if (get.Split('?', '{')[0].Contains("://", StringComparison.Ordinal))
            reading.Add(section.At(key), $"get of {section.Title} is a whole address", "write the part after the API's base: /consignments");
        var names = PathTemplate.Names(get, out var mistake);
        foreach (var name in names)
        {
            if (!reading.Inputs.ContainsKey(name))
                reading.Add(section.At(key), $"no input is named '{name}'", Nearest.Hint(name, reading.Inputs.Keys, "inputs"));
        }

        if (mistake is not null)
            reading.Add(section.At(key), $"get of {section.Title} is no URI template: {mistake}", "write it after RFC 6570: /depots/{id}/consignments{?since}");
    }
}
