using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads which API something asks, and as whom.</summary>
internal sealed class ApiChoice(
    Reading reading, IReadOnlyDictionary<string, Api> apis, IReadOnlyDictionary<string, DeclaredIdentity> identities)
{
    /// <summary>The API's name; the only one of the job when none is named.</summary>
    public string Api(SectionReader section)
    {
        var api = section.Text(PullKeys.Api);
        if (api is not null && !apis.ContainsKey(api))
            reading.Add(section.At(PullKeys.Api), $"no api is named '{api}'", Nearest.Hint(api, [.. apis.Keys], "apis"));
        else if (api is null && apis.Count != 1)
            reading.Add(
                section.Place,
                $"{section.Title} does not say which API it calls",
                apis.Count == 0 ? "declare one under apis:" : $"add api: with one of {string.Join(", ", apis.Keys)}");
        return api ?? apis.Keys.FirstOrDefault() ?? "";
    }

    /// <summary>The identity's name; null for the API's.</summary>
    public string? Identity(SectionReader section)
    {
        var identity = section.Text(PullKeys.Identity);
        if (identity is not null && !identities.ContainsKey(identity))
            reading.Add(
                section.At(PullKeys.Identity),
                $"no identity is named '{identity}'",
                Nearest.Hint(identity, [.. identities.Keys], "identities"));
        return identity;
    }
}
