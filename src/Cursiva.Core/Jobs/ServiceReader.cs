using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads identities and APIs, from the job and the files it includes.</summary>
internal sealed class ServiceReader(Reading reading)
{
    public Dictionary<string, DeclaredIdentity> Identities(IEnumerable<SectionReader> sections) =>
        Gather(sections, JobKeys.Identities, IdentityKeys.Section, "identity", new IdentityReader(reading).Read);

    public Dictionary<string, Api> Apis(IEnumerable<SectionReader> sections, Dictionary<string, DeclaredIdentity> identities) =>
        Gather(sections, JobKeys.Apis, JobKeys.ApiSection, "api", (name, section) => ReadApi(name, section, identities));

    private Dictionary<string, T> Gather<T>(IEnumerable<SectionReader> sections, Key key, Section shape, string kind, Func<string, SectionReader, T> read)
    {
        var found = new Dictionary<string, T>(StringComparer.Ordinal);
        foreach (var section in sections)
        {
            foreach (var (name, place, node) in section.Children(key))
            {
                if (!found.TryAdd(name, read(name, new SectionReader(section.File, node, shape, $"{kind} '{name}'", reading))))
                    reading.Add(place, $"{kind} '{name}' is declared twice", "give each its own name");
            }
        }

        return found;
    }

    private Api ReadApi(string name, SectionReader section, Dictionary<string, DeclaredIdentity> identities)
    {
        var identity = section.Text(JobKeys.ApiIdentity);
        if (identity is not null && !identities.ContainsKey(identity))
            reading.Add(section.At(JobKeys.ApiIdentity), $"no identity is named '{identity}'", Nearest.Hint(identity, identities.Keys, "identities"));

        return new Api(
            name,
            section.Place,
            section.Address(JobKeys.Base) ?? new Uri("https://invalid.example/"),
            identity,
            section.TextMap(JobKeys.Headers),
            section.TextMap(JobKeys.QueryParameters),
            ReadLimits(section),
            section.Whole(JobKeys.Attempts, 1, 100) ?? 6,
            section.Duration(JobKeys.Timeout) ?? TimeSpan.FromSeconds(100),
            (section.Whole(JobKeys.LargestPage, 1, 1024) ?? 64) * 1024L * 1024L)
        {
            Probe = ReadProbe(section),
            Trust = section.Text(IdentityKeys.Trust),
        };
    }

    private Probe? ReadProbe(SectionReader api)
    {
        if (api.Inside(JobKeys.Probe, reading) is not { } section)
            return null;
        var get = section.RawText(JobKeys.ProbeGet) ?? "";
        new PathCheck(reading).Check(section, JobKeys.ProbeGet, get);
        var require = new List<KeyValuePair<JsonPointer, string>>();
        foreach (var (name, place, text) in section.RawTextMap(JobKeys.ProbeRequire))
        {
            if (JsonPointer.TryParse(name) is { } pointer)
                require.Add(new(pointer, reading.Fill(text, place)));
            else
                reading.Add(place, $"'{name}' is no JSON Pointer (require in {section.Title})", JsonPointer.Right);
        }

        return new Probe(get, require);
    }

    private Limits ReadLimits(SectionReader api)
    {
        if (api.Node(JobKeys.Limits) is not { } node)
            return new Limits([], 1);

        var section = new SectionReader(api.File, node, JobKeys.LimitsSection, $"limits of {api.Title}", reading);
        var rates = new List<Rate>();
        foreach (var (text, place) in section.Texts(JobKeys.AtMost))
        {
            if (Rate.TryParse(text) is { } rate)
                rates.Add(rate);
            else
                reading.Add(place, $"'{text}' is no limit", Rate.Right);
        }

        return new Limits(rates, section.Share(JobKeys.Use) ?? 1);
    }
}
