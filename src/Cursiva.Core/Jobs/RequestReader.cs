using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the request of a pull.</summary>
internal sealed class RequestReader(Reading reading, Scope scope)
{
    public PullRequest Read(SectionReader pull)
    {
        Key[] given = [.. new[] { PullKeys.Get, PullKeys.Post, PullKeys.Link }.Where(pull.Has)];
        if (given.Length == 0)
            reading.Add(
                pull.Place, $"{pull.Title} has no 'get'", $"add get: {PullKeys.Get.Gist}, for example get: {PullKeys.Get.Example}");
        else if (given.Length > 1)
            reading.Add(pull.At(given[1]), $"{pull.Title} has both {given[0].Name} and {given[1].Name}", "keep one of them");

        var key = given.FirstOrDefault() ?? PullKeys.Get;
        var path = pull.RawText(key) ?? "";
        if (key == PullKeys.Link)
            path = Link(path, pull.At(key));
        else
            new PathCheck(reading, scope.Knows).Check(pull, key, path);
        if (pull.Has(PullKeys.Body) && key != PullKeys.Post)
            reading.Add(pull.At(PullKeys.Body), $"{pull.Title} has a body without post", "write post: instead of get:");
        return new PullRequest(key == PullKeys.Post ? "POST" : "GET", path, key == PullKeys.Link)
        {
            Query = Values(pull.RawTextsMap(PullKeys.Query)),
            Repeated = pull.Children(PullKeys.Query)
                .Where(child => child.Value is YamlDotNet.RepresentationModel.YamlSequenceNode)
                .Select(child => child.Name)
                .ToHashSet(
                StringComparer.Ordinal),
            Headers = Values(pull.RawTextsMap(PullKeys.Headers)),
            Body = pull.Node(PullKeys.Body) is { } body ? new BodyReader(reading, pull.File, scope).Read(body) : null,
            BodyIsForm = pull.Choice(PullKeys.BodyAs) == "form",
            Accept = pull.Text(PullKeys.Accept) ?? "application/json",
        };
    }

    private string Link(string path, Place place)
    {
        if (reading.FillBut(path, place, scope.Knows, scope.Hints) is not { } template)
            return "";
        AddressTemplate.Fill(template, name => scope.Knows(name) ? "x" : name, scope.Knows, out var wrong, mayLead: true);
        if (wrong is not null)
            reading.Add(place, $"{{{wrong.Name}}} would be {wrong.What}", "write only a placeholder, or use it in the path of the address");
        return template.Text;
    }

    /// <summary>Named values, filled in later.</summary>
    public IReadOnlyList<KeyValuePair<string, DeclaredValue>> Values(IReadOnlyList<(string Name, Place Place, string Text)> texts)
    {
        var values = new List<KeyValuePair<string, DeclaredValue>>();
        foreach (var (name, place, text) in texts)
        {
            if (reading.Value(text, place, scope.Knows, scope.Hints) is { } value)
                values.Add(new(name, value));
        }

        return values;
    }
}
