using Cursiva.Core.Jobs.Shape;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the pulls.</summary>
internal sealed class PullReader(Reading reading, Dictionary<string, Api> apis, Dictionary<string, DeclaredIdentity> identities)
{
    private readonly List<Pull> _pulls = [];

    /// <summary>What the values of strands are called, before anything else is read.</summary>
    public static IReadOnlySet<string> Heads(SectionReader top, Reading reading)
    {
        var heads = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (_, _, node) in top.Children(JobKeys.Pulls))
        {
            if (node is not YamlMappingNode pull || !pull.Children.TryGetValue(new YamlScalarNode(PullKeys.Per.Name), out var per))
                continue;
            var name = per is not YamlMappingNode named ? per
                : named.Children.TryGetValue(new YamlScalarNode(PerKeys.PerName.Name), out var own) || named.Children.TryGetValue(
                    new YamlScalarNode(PerKeys.PerPull.Name), out own)
                    ? own
                    : per;
            if (name is YamlScalarNode { Value: { } text } && !reading.Inputs.ContainsKey(text))
                heads.Add(text);
        }

        return heads;
    }

    public IReadOnlyList<Pull> Pulls(SectionReader top)
    {
        foreach (var (name, place, node) in top.Children(JobKeys.Pulls))
        {
            TableNames.Check(reading, name, place, "pull", _pulls.Select(pull => pull.Name));
            _pulls.Add(ReadPull(name, new SectionReader(top.File, node, PullKeys.Section, $"pull '{name}'", reading)));
        }

        if (top.Has(JobKeys.Pulls) && _pulls.Count == 0)
            reading.Add(top.At(JobKeys.Pulls), "the job has no pull", "declare a pull with get: and rows:");
        return _pulls;
    }

    private Pull ReadPull(string name, SectionReader section)
    {
        var per = new PerReader(reading, _pulls).Read(section);
        var paging = new PagingReader(reading).Read(section);
        var window = new WindowReader(reading).Read(section);
        var scope = new Scope(
            [
                .. HeadsOf(per),
                .. window is null ? Array.Empty<string>() : [Window.Head],
                .. paging.Targets.Where(target => target.Kind == PositionTargetKind.Placeholder).Select(target => target.Name),
                .. section.Has(PullKeys.Export) ? [ExportSteps.Submission] : Array.Empty<string>(),
            ],
            section.Has(PullKeys.Incremental));
        var choice = new ApiChoice(reading, apis, identities);
        var (api, identity) = (choice.Api(section), choice.Identity(section));
        var pull = new Pull(
            name,
            section.Place,
            api,
            new RequestReader(reading, scope).Read(section),
            new RowsReader(reading).Read(section, paging.Style),
            paging,
            new ColumnReader(reading, apis.GetValueOrDefault(api)?.Zone).Read(section))
        {
            Identity = identity,
            Per = per,
            Window = window,
            Carry = section.PointerMap(PullKeys.Carry),
            Drop = section.Pointers(PullKeys.Drop),
            Opens = ReadOpens(section, scope with { Heads = [.. scope.Heads, name] }),
            Key = section.Pointers(PullKeys.KeyOf),
            Incremental = ReadIncremental(section),
            DeletedWhen = section.Inside(PullKeys.DeletedWhen, reading) is { } deleted ? new DeletedRows(
                deleted.Pointer(IncrementalKeys.DeletedAt) ?? JsonPointer.TryParse("")!,
                deleted.Text(IncrementalKeys.DeletedIs) ?? Probe.Anything) : null,
            SkipWhen = new SkipReader(reading).Read(section),
            AllowSkips = section.Allowance(PullKeys.AllowSkips),
            RequiresSameColumns = section.Choices(PullKeys.RequireOf).Contains("same-columns"),
            RequiresProof = section.Choices(PullKeys.RequireOf).Contains("complete"),
            RefusesOddText = section.Choice(PullKeys.OddText) == "refuse",
            Encryption = new PayloadReader(reading).Bodies(section, identity ?? apis.GetValueOrDefault(api)?.Identity, identities),
            Signatures = new PayloadReader(reading).Signatures(section, ofPull: true),
            Schema = section.LocalFile(PayloadKeys.Validate),
            BodySchema = section.LocalFile(PayloadKeys.ValidateBody),
            MayBeEmpty = section.Switch(PullKeys.AllowEmpty) == true,
            FailWhen = [.. section.Insides(PullKeys.FailWhen, reading).Select(
                rule => new FailRule(
                    rule.Pointer(StrandKeys.FailAt) ?? JsonPointer.TryParse("")!,
                    rule.Text(StrandKeys.FailIs) ?? Probe.Anything,
                    rule.Switch(StrandKeys.FailAgain) == true))],
            Parallel = section.Whole(PullKeys.Parallel) ?? Pull.DefaultParallel,
            Export = new ExportReader(reading, scope).Read(section),
            DownloadTo = section.RawText(PullKeys.Download) is { } to ? reading.FillBut(
                to, section.At(PullKeys.Download), scope.Knows, scope.Hints) : null,
        };
        new PullCheck(reading).Check(section, pull);
        return pull;
    }

    // A pull sees what its strands are made from, all the way up.
    private IEnumerable<string> HeadsOf(Per? per)
    {
        for (var at = per; at is not null; at = at.Pull is null ? null : _pulls.FirstOrDefault(pull => pull.Name == at.Pull)?.Per)
            yield return at.Name;
    }

    private Opening? ReadOpens(SectionReader section, Scope scope)
    {
        if (section.Inside(PullKeys.Opens, reading) is not { } opens)
            return null;
        var get = opens.RawText(StrandKeys.OpensGet) ?? "";
        new PathCheck(reading, scope.Knows).Check(opens, StrandKeys.OpensGet, get);
        var when = new List<KeyValuePair<JsonPointer, string>>();
        foreach (var (name, place, text) in opens.RawTextMap(StrandKeys.OpensWhen))
        {
            if (opens.Pointer(name, place, StrandKeys.OpensWhen) is { } at)
                when.Add(new(at, reading.Fill(text, place)));
        }

        return new Opening(when, get, opens.Whole(StrandKeys.Deepest) ?? 50);
    }

    private Incremental? ReadIncremental(SectionReader section) =>
        section.Inside(PullKeys.Incremental, reading) is { } inside
            ? new Incremental(
                inside.Pointer(IncrementalKeys.By) ?? JsonPointer.TryParse("")!, inside.Text(IncrementalKeys.Overlap), inside.Text(IncrementalKeys.FirstMark))
            : null;
}
