using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads identities and APIs, from the job and the files it includes.</summary>
internal sealed class ServiceReader(Reading reading)
{
    /// <summary>
    /// The identities and APIs that differ from strand to strand, by name: they are read again with each strand's values.
    /// </summary>
    public StrandServices Strands { get; } = new() { Names = reading.Strands.Asked };

    public Dictionary<string, DeclaredIdentity> Identities(IEnumerable<SectionReader> sections) =>
        Gather(
            sections,
            JobKeys.Identities,
            IdentityKeys.Section,
            "identity",
            (name, section, reading) => new IdentityReader(reading).Read(name, section),
            Strands.Identities);

    public Dictionary<string, Api> Apis(IEnumerable<SectionReader> sections, Dictionary<string, DeclaredIdentity> identities) =>
        Gather(
            sections,
            JobKeys.Apis,
            ApiKeys.ApiSection,
            "api",
            (name, section, reading) => new ServiceReader(reading).ReadApi(name, section, identities),
            Strands.Apis);

    private Dictionary<string, T> Gather<T>(
        IEnumerable<SectionReader> sections,
        Key key,
        Section shape,
        string kind,
        Func<string,
        SectionReader,
        Reading,
        T> read,
        Dictionary<string,
        Func<Func<string,
        string?>,
        T>> perStrand)
    {
        var found = new Dictionary<string, T>(StringComparer.Ordinal);
        foreach (var section in sections)
        {
            foreach (var (name, place, node) in section.Children(key))
            {
                var (strands, used) = (reading.Strands, reading.Strands.Used);
                if (!found.TryAdd(name, read(name, new SectionReader(section.File, node, shape, $"{kind} '{name}'", reading), reading)))
                    reading.Add(place, $"{kind} '{name}' is declared twice", "give each its own name");
                if (reading.Strands.Used > used)
                {
                    perStrand[name] = values =>
                    {
                        var again = reading.With(strands, values);
                        var made = read(name, new SectionReader(section.File, node, shape, $"{kind} '{name}'", again), again);
                        return again.Mistakes.Count == 0 ? made : throw new JobMistakesException(again.Mistakes);
                    };
                }
            }
        }

        return found;
    }

    private Api ReadApi(string name, SectionReader section, Dictionary<string, DeclaredIdentity> identities)
    {
        var identity = section.Text(ApiKeys.ApiIdentity);
        if (identity is not null && !identities.ContainsKey(identity))
            reading.Add(
                section.At(ApiKeys.ApiIdentity),
                $"no identity is named '{identity}'",
                Nearest.Hint(identity, identities.Keys, "identities"));

        var ofToken = TokenBase.Read(section, reading);
        return new Api(
            name,
            section.Place,
            ofToken?.StandsIn ?? section.Address(ApiKeys.Base) ?? new Uri("https://invalid.example/"),
            identity,
            section.ValueMap(ApiKeys.Headers),
            section.ValueMap(ApiKeys.QueryParameters),
            ReadLimits(section),
            section.Whole(ApiKeys.Attempts) ?? 6,
            section.Duration(ApiKeys.Timeout) ?? TimeSpan.FromSeconds(100),
            (section.Whole(ApiKeys.LargestPage) ?? 64) * 1024L * 1024L)
        {
            TokenBase = ofToken?.Written,
            BaseWithin = ofToken?.Within ?? [],
            Probe = ReadProbe(section),
            Trust = section.LocalFile(IdentityKeys.Trust),
            Zone = section.Zone(ApiKeys.ApiZone)?.Id,
            LargestFile = (section.Whole(ApiKeys.LargestFile) ?? 16384) * 1024L * 1024,
            LongestPause = section.Duration(ApiKeys.LongestPause) ?? TimeSpan.FromHours(1),
            ConnectTimeout = section.Duration(ApiKeys.ConnectTimeout) ?? TimeSpan.FromSeconds(20),
            MayUseHttp2 = section.Choice(ApiKeys.HttpVersion) == "2",
            IdleTimeout = section.Duration(ApiKeys.IdleTimeout) ?? TimeSpan.FromSeconds(60),
            AlsoOrigins = ReadOrigins(section),
            Encryption = new PayloadReader(reading).Bodies(section, identity, identities),
            Signatures = new PayloadReader(reading).Signatures(section, ofPull: false),
        };
    }

    private Dictionary<string, bool> ReadOrigins(SectionReader api)
    {
        var origins = new Dictionary<string, bool>(StringComparer.OrdinalIgnoreCase);
        foreach (var (name, place, text) in api.RawTextMap(ApiKeys.AlsoOrigins))
        {
            var filled = reading.FillAddress(name, place);
            if (reading.Strands.StandsInFor(name))
                continue;
            if (!Uri.TryCreate(filled, UriKind.Absolute, out var uri)
                || uri.Scheme is not ("http" or "https")
                || uri.AbsolutePath != "/"
                || uri.Query.Length > 0
                || uri.UserInfo.Length > 0)
                reading.Add(
                    place,
                    $"'{filled}' is not an origin",
                    "write scheme and host, and the port unless it is the default: https://files.brackwater.example");
            else if (uri.Scheme == "http" && !uri.IsLoopback)
                reading.Add(
                    place,
                    $"requests to '{filled}' could be read and changed on the way",
                    "use https; http is accepted only on the loopback address");
            else if (text is not ("bare" or "signed-in"))
                reading.Add(place, $"'{text}' does not say whether credentials go to {filled}", "write bare, or signed-in");
            else
                origins[uri.GetLeftPart(UriPartial.Authority)] = text == "signed-in";
        }

        return origins;
    }

    private Probe? ReadProbe(SectionReader api)
    {
        if (api.Inside(ApiKeys.Probe, reading) is not { } section)
            return null;
        var get = section.RawText(ApiKeys.ProbeGet) ?? "";
        new PathCheck(reading, Presentation.IsOfToken).Check(section, ApiKeys.ProbeGet, get);
        var require = new List<KeyValuePair<JsonPointer, string>>();
        foreach (var (name, place, text) in section.RawTextMap(ApiKeys.ProbeRequire))
        {
            if (JsonPointer.TryParse(name) is { } pointer)
                require.Add(new(pointer, reading.Fill(text, place)));
            else
                reading.Add(place, $"'{name}' is not a JSON Pointer (require in {section.Title})", JsonPointer.Right);
        }

        return new Probe(get, require);
    }

    private Limits ReadLimits(SectionReader api)
    {
        if (api.Node(ApiKeys.Limits) is not { } node)
            return new Limits([], 1);

        var section = new SectionReader(api.File, node, ApiKeys.LimitsSection, $"limits of {api.Title}", reading);
        var rates = new List<Rate>();
        foreach (var (text, place) in section.Texts(ApiKeys.AtMost))
        {
            if (Rate.TryParse(text) is { } rate)
                rates.Add(rate);
            else
                reading.Add(place, $"'{text}' is not a limit", Rate.Right);
        }

        var atOnce = section.Whole(ApiKeys.AtOnce);
        if (!section.Has(ApiKeys.AtMost) && !section.Has(ApiKeys.AtOnce))
            reading.Add(section.Place, $"{section.Title} has no limit", "add at-most: or at-once:, or remove limits:");
        return new Limits(rates, section.Share(ApiKeys.Use) ?? 1, atOnce);
    }
}
