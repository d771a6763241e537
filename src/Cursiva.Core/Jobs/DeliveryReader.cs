using System.Globalization;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the deliveries.</summary>
internal sealed class DeliveryReader(Reading reading, IReadOnlyList<Report> reports, IReadOnlyDictionary<string, DeclaredIdentity> identities)
{
    private const string NoFiles = "none";

    public IReadOnlyList<Delivery> Deliveries(SectionReader top) =>
        [.. top.Children(JobKeys.Deliveries).Select(child => Read(child.Name, new SectionReader(top.File, child.Value, DeliveryKeys.Section, $"delivery '{child.Name}'", reading))).OfType<Delivery>()];

    private Delivery? Read(string name, SectionReader section)
    {
        if (name.Length is 0 or > 100 || !name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_'))
            reading.Add(section.Place, $"'{name}' cannot name a delivery", "use up to 100 letters, digits, - and _");
        var when = section.Choice(DeliveryKeys.When) is { } word ? Enum.Parse<DeliveryTime>(word, ignoreCase: true) : DeliveryTime.Always;
        var delivered = Reports(section, when);
        var repeats = section.Choice(DeliveryKeys.WhenInDoubt) == "repeat";
        var within = section.Duration(DeliveryKeys.DeliverWithin) ?? Delivery.DefaultWithin;
        if (section.Has(DeliveryKeys.Mail) == section.Has(DeliveryKeys.Folder))
            reading.Add(section.Place, section.Has(DeliveryKeys.Mail) ? $"{section.Title} has both mail: and folder:" : $"{section.Title} has no way to go", "give one of mail: and folder:; two ways are two deliveries");

        if (when == DeliveryTime.Failed && section.Has(DeliveryKeys.Folder))
            reading.Add(section.At(DeliveryKeys.Folder), $"{section.Title} is about runs that failed, and has no file to put into a folder", "send it as a mail:");
        if (when == DeliveryTime.Changed && delivered.Any(report => !report.Files.Any(IsData)))
            reading.Add(section.At(DeliveryKeys.When), $"{section.Title} compares rows, and report '{delivered.First(report => !report.Files.Any(IsData)).Name}' is written to no file of rows alone", "write it as .csv, .jsonl, .json or .parquet, too: pages and workbooks name their run, so they always change");
        DeliveryWay? way = section.Inside(DeliveryKeys.Mail, reading) is { } mail ? Mail(mail, delivered, when) : section.Inside(DeliveryKeys.Folder, reading) is { } folder ? Folder(folder) : null;
        return way is null ? null : new Delivery(name, section.Place, [.. delivered.Select(report => report.Name)], when, way, repeats, within);
    }

    /// <summary>Whether a file has rows and nothing else, so that equal rows are equal bytes.</summary>
    public static bool IsData(ReportFile file) => file.Format is FileFormat.Csv or FileFormat.Json or FileFormat.JsonLines or FileFormat.Parquet;

    private List<Report> Reports(SectionReader section, DeliveryTime when)
    {
        var named = section.Texts(DeliveryKeys.Report);
        if (named.Count == 0 && when != DeliveryTime.Failed)
            reading.Add(section.Place, $"{section.Title} has no 'report'", "add report: with the name of a report, or when: failed");
        if (named.Count > 0 && when == DeliveryTime.Failed)
            reading.Add(section.At(DeliveryKeys.Report), $"{section.Title} is about runs that failed, which wrote no report", "take report: out, or deliver it with another when:");
        foreach (var (name, place) in named.Where(item => !reports.Any(report => report.Name == item.Text)))
            reading.Add(place, $"no report is named '{name}'", Nearest.Hint(name, [.. reports.Select(report => report.Name)], "reports"));
        return [.. named.Select(item => reports.FirstOrDefault(report => report.Name == item.Text)).OfType<Report>()];
    }

    private FolderWay? Folder(SectionReader section) =>
        section.RawText(DeliveryKeys.FolderPath) is { } text && reading.FillBut(text, section.At(DeliveryKeys.FolderPath), Job.RunNames) is { } path ? new FolderWay(path) : null;

    private MailWay? Mail(SectionReader section, List<Report> delivered, DeliveryTime when)
    {
        var security = section.Choice(DeliveryKeys.Security) switch { "tls" => MailSecurity.Tls, "none" => MailSecurity.None, _ => MailSecurity.StartTls };
        var (host, port) = Server(section, security);
        if (security == MailSecurity.None && host is not null && !IsHere(host))
            reading.Add(section.At(DeliveryKeys.Security), $"{section.Title} would cross the network unprotected", "use tls or starttls; none is for a server on this machine (localhost)");
        var proofs = (section.Has(DeliveryKeys.Password) ? 1 : 0) + (section.Has(DeliveryKeys.Identity) ? 1 : 0);
        if (section.Has(DeliveryKeys.User) ? proofs != 1 : proofs > 0)
            reading.Add(section.Place, $"{section.Title} has {(!section.Has(DeliveryKeys.User) ? "no user: who signs in" : proofs == 0 ? "user:, and neither password: nor identity:" : "both password: and identity:")}", "give user: with one of password: and identity:, or none of them");
        DeclaredIdentity? identity = null;
        if (section.Text(DeliveryKeys.Identity) is { } named && !identities.TryGetValue(named, out identity))
            reading.Add(section.At(DeliveryKeys.Identity), $"no identity is named '{named}'", Nearest.Hint(named, [.. identities.Keys], "identities"));
        var from = Address(section, DeliveryKeys.From) is [var sender, ..] ? sender : null;
        var to = Address(section, DeliveryKeys.To);
        var subject = Words(section, DeliveryKeys.Subject) ?? Template.TryParse(Subject(delivered, when), out _)!;
        foreach (var (file, place) in section.RawTexts(DeliveryKeys.Attach).Where(item => item.Text != NoFiles && !delivered.SelectMany(report => report.Files).Any(file => file.Path.Text == item.Text)))
            reading.Add(place, $"{section.Title} attaches '{file}', which none of its reports writes", Nearest.Hint(file, [.. delivered.SelectMany(report => report.Files).Select(written => written.Path.Text)], "files"));
        var attach = section.Has(DeliveryKeys.Attach) ? section.RawTexts(DeliveryKeys.Attach).Select(item => item.Text).Where(text => text != NoFiles).ToList() : null;
        return host is null || from is null ? null : new MailWay(host, port, security, section.Text(DeliveryKeys.User), section.SecretSources(DeliveryKeys.Password) is [var password, ..] ? password : null, identity, from, to, subject, Words(section, DeliveryKeys.MailText), attach);
    }

    private (string? Host, int Port) Server(SectionReader section, MailSecurity security)
    {
        if (section.Text(DeliveryKeys.Server) is not { } text)
            return (null, 0);
        var usual = security switch { MailSecurity.Tls => 465, MailSecurity.StartTls => 587, MailSecurity.None => 25 };
        if (Uri.TryCreate($"smtp://{text}", UriKind.Absolute, out var address) && address.AbsolutePath is "/" or "" && address.UserInfo.Length == 0 && address.Host.Length > 0 && address.Query.Length == 0)
            return (address.IdnHost, address.Port > 0 && address.Port.ToString(CultureInfo.InvariantCulture) is var port && text.EndsWith(":" + port, StringComparison.Ordinal) ? address.Port : usual);
        reading.Add(section.At(DeliveryKeys.Server), $"'{text}' is no mail server", "write HOST or HOST:PORT: smtp.brackwater.example:587");
        return (null, 0);
    }

    private static bool IsHere(string host) => host == "localhost" || (System.Net.IPAddress.TryParse(host.Trim('[', ']'), out var address) && System.Net.IPAddress.IsLoopback(address));

    private List<string> Address(SectionReader section, Key key)
    {
        var addresses = new List<string>();
        foreach (var (text, place) in section.Texts(key))
        {
            if (Confines.Header(text) is null && MimeKit.MailboxAddress.TryParse(text, out var parsed) && parsed.Address.Contains('@', StringComparison.Ordinal))
                addresses.Add(text);
            else
                reading.Add(place, $"'{text}' is no mail address", "write desk@brackwater.example, or Desk <desk@brackwater.example>");
        }

        return addresses;
    }

    private Template? Words(SectionReader section, Key key)
    {
        if (section.RawText(key) is not { } text)
            return null;
        if (key == DeliveryKeys.Subject && Confines.Header(text) is { } wrong)
            reading.Add(section.At(key), $"the subject has {wrong}", "write it on one line");
        return reading.FillBut(text, section.At(key), Job.RunNames);
    }

    private static string Subject(List<Report> delivered, DeliveryTime when) =>
        when == DeliveryTime.Failed ? "" : string.Join(", ", delivered.Select(report => report.Title)).Replace("{", "{{", StringComparison.Ordinal).Replace("}", "}}", StringComparison.Ordinal) + ", {run.date}";
}
