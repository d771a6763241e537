using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the write-backs.</summary>
internal sealed class WriteReader(
    Reading reading, IReadOnlyDictionary<string, Api> apis, IReadOnlyDictionary<string, DeclaredIdentity> identities)
{
    public IReadOnlyList<Write> Writes(SectionReader top) =>
        [.. top.Children(JobKeys.Writes)
            .Select(
                child => Read(child.Name, new SectionReader(top.File, child.Value, WriteKeys.Section, $"write '{child.Name}'", reading)))
            .OfType<Write>()];

    private Write? Read(string name, SectionReader section)
    {
        if (name.Length is 0 or > 100 || !name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_'))
            reading.Add(section.Place, $"'{name}' cannot name a write", "use up to 100 letters, digits, - and _");
        var choice = new ApiChoice(reading, apis, identities);
        var (api, identity) = (choice.Api(section), choice.Identity(section));
        var sentAs = identity ?? apis.GetValueOrDefault(api)?.Identity;
        var reader = new StepsReader(reading, Write.Row, new StepExchange(sentAs, identities));
        var steps = reader.Read(section, WriteKeys.Steps, []);
        var remove = reader.Read(section, WriteKeys.Remove, steps);
        foreach (var (key, taken) in new[] { (WriteKeys.Steps, steps), (WriteKeys.Remove, remove) })
        {
            if (section.Has(key) && taken.All(step => step.IsLook))
                reading.Add(
                    section.At(key), $"{key.Name} of {section.Title} changes nothing", "add a step with post:, put:, patch: or delete:");
        }

        if (section.Has(WriteKeys.Remove) && !section.Has(WriteKeys.MostChanges))
            reading.Add(
                section.At(WriteKeys.Remove),
                $"{section.Title} removes everything that is no longer in sql:, without a limit",
                "add most-changes:, such as 50 or 5%");
        return SqlReader.Read(section, WriteKeys.Sql) is not { } sql ? null : new Write(
            name, section.Place, sql, [.. section.Texts(WriteKeys.KeyColumns).Select(column => column.Text)], api, identity, steps)
        {
            OnlyIfChanged = section.Switch(WriteKeys.OnlyIfChanged) == true,
            MostChanges = section.Allowance(WriteKeys.MostChanges),
            Remove = remove,
            Require = [.. section.RawTextMap(WriteKeys.Require).Select(
                item => new ItemRequirement(item.Name, item.Place, reading.Fill(item.Text, item.Place)))],
            Encryption = new PayloadReader(reading).Bodies(section, sentAs, identities),
            Signatures = new PayloadReader(reading).Signatures(section, ofPull: false),
            SkipWhen = new SkipReader(reading).Read(section),
            Parallel = section.Whole(WriteKeys.Parallel) ?? Write.DefaultParallel,
            RepeatsInDoubt = section.Choice(LedgerKeys.WhenInDoubt) == "repeat",
            Within = section.Duration(LedgerKeys.DeliverWithin) ?? Delivery.DefaultWithin,
        };
    }
}
