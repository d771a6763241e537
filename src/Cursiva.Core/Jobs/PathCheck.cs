using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Checks the path of a pull or a probe.</summary>
/// <param name="isKnown">Names besides the inputs that have a value when the path is filled in.</param>
internal sealed class PathCheck(Reading reading, Func<string, bool>? isKnown = null)
{
    /// <summary>Reports what is wrong with a path.</summary>
    public void Check(SectionReader section, Key key, string path)
    {
        if (path.Split('?', '{')[0].Contains("://", StringComparison.Ordinal))
            reading.Add(
                section.At(key), $"{key.Name} of {section.Title} is a whole address", "write the part after the API's base: /consignments");
        var names = PathTemplate.Names(path, out var mistake);
        reading.AddUnfilled(
            section.At(key), names.Where(name => !reading.Inputs.ContainsKey(name) && isKnown?.Invoke(name) != true), reading.Inputs.Keys);
        if (mistake is not null)
            reading.Add(
                section.At(key),
                $"{key.Name} of {section.Title} is not a URI template: {mistake}",
                "follow RFC 6570: /depots/{id}/consignments{?since}");
    }
}
