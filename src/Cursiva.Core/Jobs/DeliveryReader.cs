using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the deliveries.</summary>
internal sealed class DeliveryReader(
    Reading reading,
    IReadOnlyList<Report> reports,
    IReadOnlyDictionary<string,
    DeclaredIdentity> identities,
    IReadOnlyDictionary<string,
    Api> apis)
{
    private const string Fingerprint = "SHA256:";
    private const string RunHead = "run";

    public IReadOnlyList<Delivery> Deliveries(SectionReader top) =>
        [.. top.Children(JobKeys.Deliveries)
            .Select(
                child => Read(
                    child.Name, new SectionReader(top.File, child.Value, DeliveryKeys.Section, $"delivery '{child.Name}'", reading)))
            .OfType<Delivery>()];

    /// <summary>Whether a file has rows and nothing else, so that equal rows are equal bytes.</summary>
    public static bool IsData(ReportFile file) => file.Format.Holds == FormatHolds.OneTable;

    private Delivery? Read(string name, SectionReader section)
    {
        if (name.Length is 0 or > 100 || !name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_'))
            reading.Add(section.Place, $"'{name}' cannot name a delivery", "use up to 100 letters, digits, - and _");
        var when = section.Choice(DeliveryKeys.When) is { } word ? Enum.Parse<DeliveryTime>(word, ignoreCase: true) : DeliveryTime.Always;
        List<Key> given = [.. DeliveryKeys.Ways.Where(section.Has)];
        if (given.Count != 1)
            reading.Add(
                section.Place,
                given.Count == 0
                    ? $"{section.Title} does not say where to send"
                    : $"{section.Title} has both {given[0].Name}: and {given[1].Name}:",
                $"give one of {string.Join(", ", DeliveryKeys.Ways.SkipLast(1).Select(key => key.Name + ":"))} and {DeliveryKeys.Ways[^1].Name}:; use two deliveries for two of them");
        var delivered = Reports(section, when, given.Contains(DeliveryKeys.Table) || given.Contains(DeliveryKeys.Message));
        var way = given.Count == 0 ? null : Way(section, given[0], delivered, when);
        var isPerFile = section.Choice(DeliveryKeys.Per) == "file";
        Check(section, when, given, delivered, way, isPerFile);
        var repeats = section.Choice(LedgerKeys.WhenInDoubt) == "repeat";
        var within = section.Duration(LedgerKeys.DeliverWithin) ?? Delivery.DefaultWithin;
        return way is null
            ? null
            : new Delivery(
                name,
                section.Place,
                [.. delivered.Select(report => report.Name)],
                when,
                way is UploadWay upload ? new UploadWay(upload.Work with { Name = name, RepeatsInDoubt = repeats }) : way,
                repeats,
                within)
            { IsPerFile = isPerFile };
    }

    private void Check(SectionReader section, DeliveryTime when, List<Key> given, List<Report> delivered, DeliveryWay? way, bool isPerFile)
    {
        if (when is (DeliveryTime.Failed or DeliveryTime.Late)
            && given.FirstOrDefault(key => key != DeliveryKeys.Mail && key != DeliveryKeys.Message) is { } files)
            reading.Add(
                section.At(files), $"{section.Title} reports trouble, and has no files to send there", "send it as a mail: or a message:");
        if (given.Contains(DeliveryKeys.Table) && delivered.Count > 0)
            reading.Add(section.At(DeliveryKeys.Report), $"{section.Title} fills a table, whose rows come from sql:", "remove report:");
        if (when is DeliveryTime.Rows or DeliveryTime.Changed && delivered.Count == 0 && !given.Contains(DeliveryKeys.Table))
            reading.Add(section.At(DeliveryKeys.When), $"{section.Title} depends on rows but names no report", "add report:");
        if (when == DeliveryTime.Changed && delivered.Find(report => !report.Files.Any(IsData)) is { } pages)
            reading.Add(
                section.At(DeliveryKeys.When),
                $"{section.Title} compares rows, but report '{pages.Name}' has no file that contains only rows",
                "also write it as .csv, .jsonl, .json or .parquet: pages and workbooks name their run, so they always change");
        if (isPerFile && (!given.Contains(DeliveryKeys.Mail) || !delivered.Any(report => report.FilePer is not null)))
            reading.Add(
                section.At(DeliveryKeys.Per),
                $"{section.Title} is per file, and {(given.Contains(DeliveryKeys.Mail) ? "none of its reports has file-per:" : "is not a mail")}",
                "per: file is only for mails with a report that has file-per:");
        if (isPerFile && delivered.Find(report => report.FilePer is null) is { } whole && delivered.Count > 1)
            reading.Add(
                section.At(DeliveryKeys.Report),
                $"report '{whole.Name}' has no file-per:, so its recipients are unknown",
                "deliver it separately");
    }

    private DeliveryWay? Way(SectionReader section, Key key, List<Report> delivered, DeliveryTime when)
    {
        if (section.Inside(key, reading) is not { } inside)
            return null;
        return key == DeliveryKeys.Mail ? new MailWayReader(inside, identities).Read(delivered, when)
            : key == DeliveryKeys.Folder ? Folder(inside)
            : key == DeliveryKeys.Sftp ? Sftp(inside)
            : key == DeliveryKeys.Upload ? Upload(inside)
            : key == DeliveryKeys.Table ? new TableWayReader(inside).Read()
            : Message(inside);
    }

    private List<Report> Reports(SectionReader section, DeliveryTime when, bool mayHaveNone)
    {
        var named = section.Texts(DeliveryKeys.Report);
        if (named.Count == 0 && when is not (DeliveryTime.Failed or DeliveryTime.Late) && !mayHaveNone)
            reading.Add(
                section.Place, $"{section.Title} has no 'report'", "add report: with the name of a report, or when: failed, or when: late");
        if (named.Count > 0 && when is (DeliveryTime.Failed or DeliveryTime.Late))
            reading.Add(
                section.At(DeliveryKeys.Report),
                $"{section.Title} is about {(when == DeliveryTime.Failed ? "runs that failed, which wrote no report" : "jobs that are late, and has no report")}",
                "remove report:, or use another when:");
        foreach (var (name, place) in named.Where(item => !reports.Any(report => report.Name == item.Text)))
            reading.Add(place, $"no report is named '{name}'", Nearest.Hint(name, [.. reports.Select(report => report.Name)], "reports"));
        return [.. named.Select(item => reports.FirstOrDefault(report => report.Name == item.Text)).OfType<Report>()];
    }

    private FolderWay? Folder(SectionReader section) => Path(section, DeliveryKeys.FolderPath) is { } path ? new FolderWay(path) : null;

    private SftpWay? Sftp(SectionReader section)
    {
        var server = ServerName.Read(section, DeliveryKeys.SftpServer, 22);
        if (section.Has(DeliveryKeys.SftpPassword) == section.Has(DeliveryKeys.SftpKey))
            reading.Add(
                section.Place,
                $"{section.Title} has {(section.Has(DeliveryKeys.SftpKey) ? "both password: and private-key:" : "neither password: nor private-key:")}",
                "give one of them");
        var key = section.Text(DeliveryKeys.HostKey)?.TrimEnd('=');
        if (key is not null && !(key.StartsWith(Fingerprint, StringComparison.Ordinal) && key.Length == Fingerprint.Length + 43))
        {
            reading.Add(
                section.At(DeliveryKeys.HostKey),
                $"'{key}' is not a fingerprint",
                "write SHA256: and 43 characters, as ssh-keygen -l -f /etc/ssh/ssh_host_ed25519_key.pub prints them on the server");
            return null;
        }

        return server is not var (host, port) || key is null || section.Text(DeliveryKeys.SftpUser) is not { } user || Path(
            section, DeliveryKeys.SftpPath) is not { } path
            ? null
            : new SftpWay(
                host,
                port,
                key[Fingerprint.Length..],
                user,
                Source(section, DeliveryKeys.SftpPassword),
                Source(section, DeliveryKeys.SftpKey),
                Source(section, DeliveryKeys.SftpKeyPassword),
                path);
    }

    private UploadWay Upload(SectionReader section)
    {
        var choice = new ApiChoice(reading, apis, identities);
        var (api, identity) = (choice.Api(section), choice.Identity(section));
        var exchange = new StepExchange(identity ?? apis.GetValueOrDefault(api)?.Identity, identities);
        var steps = new StepsReader(reading, UploadWay.File, exchange).Read(section, UploadKeys.Steps, []);
        if (!steps.Any(step => step.File != FileBody.None))
            reading.Add(section.Place, $"no step of {section.Title} sends the file", "add file: body, form or pieces to one of them");
        return new UploadWay(
            new Write(section.Title, section.Place, new SqlSource("", section.Place, -1), [UploadWay.File], api, identity, steps)
            {
                SkipWhen = new SkipReader(reading).Read(section),
                Parallel = 1,
            });
    }

    private MessageWay? Message(SectionReader section)
    {
        var body = section.Node(DeliveryKeys.Body) is { } node
            ? new BodyReader(reading, section.File, new Scope([RunHead], HasMark: false)).Read(node)
            : Told();
        if (body.Names.FirstOrDefault(name => !Delivery.Names.Contains(name)) is { } unknown)
            reading.Add(section.At(DeliveryKeys.Body), $"{{{unknown}}} is not known here", Nearest.Hint(unknown, Delivery.Names, "names"));
        if (body.HasSecret)
            reading.Add(
                section.At(DeliveryKeys.Body),
                $"{section.Title} has a secret in its body, which is stored on disk until it is sent",
                "only address: can be a secret");
        return Source(section, DeliveryKeys.Address) is { } address
            ? new MessageWay(address, body, section.Whole(DeliveryKeys.Largest))
            : null;
    }

    private static DeclaredBody.Group Told() =>
        new(
            [KeyValuePair.Create<string, DeclaredBody>(
                "text", new DeclaredBody.Text(new DeclaredValue(Template.TryParse("{" + Delivery.Told + "}", out _)!, isSource: false)))]);

    private Template? Path(SectionReader section, Key key) =>
        section.RawText(key) is { } text ? reading.FillBut(text, section.At(key), Job.RunNames) : null;

    private static SecretSource? Source(SectionReader section, Key key) => section.SecretSources(key) is [var source, ..] ? source : null;
}
