using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the request of a pull.</summary>
internal sealed class RequestReader(Reading reading, Scope scope)
{
    public PullRequest Read(SectionReader pull)
    {
        Key[] given = [.. new[] { PullKeys.Get, PullKeys.Post, PullKeys.Link }.Where(pull.Has)];
        if (given.Length == 0)
            reading.Add(pull.Place, $"{pull.Title} has no 'get'", $"add get: {PullKeys.Get.Meaning}, for example get: {PullKeys.Get.Example}");
        else if (given.Length > 1)
            reading.Add(pull.At(given[1]), $"{pull.Title} has both {given[0].Name} and {given[1].Name}", "keep one of them");

        var key = given.FirstOrDefault() ?? PullKeys.Get;
        var path = pull.RawText(key) ?? "";
        if (key == PullKeys.Link)
            path = reading.FillBut(path, pull.At(key), scope.Knows, scope.Hints)?.Text ?? "";
        else
            new PathCheck(reading, scope.Knows).Check(pull, key, path);
        if (pull.Has(PullKeys.Body) && key != PullKeys.Post)
            reading.Add(pull.At(PullKeys.Body), $"{pull.Title} has a body without post", "write post: instead of get:");
        return new PullRequest(key == PullKeys.Post ? "POST" : "GET", path, key == PullKeys.Link)
        {
            Query = [.. pull.RawTextsMap(PullKeys.Query).Select(item => KeyValuePair.Create(item.Name, reading.FillBut(item.Text, item.Place, scope.Knows, scope.Hints))).Where(item => item.Value is not null).Select(item => KeyValuePair.Create(item.Key, item.Value!))],
            Headers = [.. pull.RawTextMap(PullKeys.Headers).Select(item => KeyValuePair.Create(item.Name, reading.FillBut(item.Text, item.Place, scope.Knows, scope.Hints))).Where(item => item.Value is not null).Select(item => KeyValuePair.Create(item.Key, item.Value!))],
            Body = pull.Node(PullKeys.Body) is { } body ? new YamlJson(reading, pull.File, scope.Knows, scope.Hints).Read(body) : null,
            BodyIsForm = pull.Choice(PullKeys.BodyAs) == "form",
            Accept = pull.Text(PullKeys.Accept) ?? "application/json",
        };
    }
}
