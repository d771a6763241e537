using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads a mail of a delivery.</summary>
internal sealed class MailWayReader(SectionReader section, IReadOnlyDictionary<string, DeclaredIdentity> identities)
{
    private const string NoFiles = "none";

    private readonly Reading _reading = section.Reading;

    public MailWay? Read(IReadOnlyList<Report> delivered, DeliveryTime when)
    {
        var security = section.Choice(DeliveryKeys.Security) switch
        {
            "tls" => MailSecurity.Tls,
            "none" => MailSecurity.None,
            _ => MailSecurity.StartTls,
        };
        var server = ServerName.Read(
            section,
            DeliveryKeys.Server,
            security switch { MailSecurity.Tls => 465, MailSecurity.StartTls => 587, MailSecurity.None => 25 });
        ServerName.CheckProtected(section, DeliveryKeys.Security, security != MailSecurity.None, server?.Host);
        var identity = Identity();
        var from = Address(DeliveryKeys.From) is [var sender, ..] ? sender : null;
        var toSql = section.Node(DeliveryKeys.To) is YamlDotNet.RepresentationModel.YamlMappingNode && section.Inside(
            DeliveryKeys.To, _reading) is { } query
            ? SqlReader.Read(query, DeliveryKeys.ToSql)
            : null;
        IReadOnlyList<string> to = toSql is null ? Address(DeliveryKeys.To) : [];
        var subject = Words(DeliveryKeys.Subject) ?? Template.TryParse(Subject(delivered, when), out _)!;
        foreach (var (file, place) in section.RawTexts(DeliveryKeys.Attach).Where(
            item => item.Text != NoFiles && !delivered.SelectMany(report => report.Files).Any(file => file.Path.Text == item.Text)))
            _reading.Add(
                place,
                $"{section.Title} attaches '{file}', but none of its reports writes it",
                Nearest.Hint(file, [.. delivered.SelectMany(report => report.Files).Select(written => written.Path.Text)], "files"));
        var attach = section.Has(DeliveryKeys.Attach)
            ? section.RawTexts(DeliveryKeys.Attach).Select(item => item.Text).Where(text => text != NoFiles).ToList()
            : null;
        if (toSql is not null && when is DeliveryTime.Failed or DeliveryTime.Late)
            _reading.Add(
                section.At(DeliveryKeys.To),
                $"{section.Title} is about failed runs, whose rows may be missing",
                "write the addresses themselves");
        return server is not var (host, port) || from is null ? null : new MailWay(
            host,
            port,
            security,
            section.Text(DeliveryKeys.User),
            section.SecretSources(DeliveryKeys.Password) is [var password, ..] ? password : null,
            identity,
            from,
            subject,
            Words(DeliveryKeys.MailText),
            attach)
        {
            To = to,
            ToSql = toSql,
            Trust = section.LocalFile(IdentityKeys.Trust),
        };
    }

    private DeclaredIdentity? Identity()
    {
        var proofs = (section.Has(DeliveryKeys.Password) ? 1 : 0) + (section.Has(DeliveryKeys.Identity) ? 1 : 0);
        if (section.Has(DeliveryKeys.User) ? proofs != 1 : proofs > 0)
            _reading.Add(
                section.Place,
                $"{section.Title} has {(!section.Has(DeliveryKeys.User) ? "no user: who signs in" : proofs == 0 ? "user:, and neither password: nor identity:" : "both password: and identity:")}",
                "give user: with either password: or identity:, or none of the three");
        DeclaredIdentity? identity = null;
        if (section.Text(DeliveryKeys.Identity) is { } named && !identities.TryGetValue(named, out identity))
            _reading.Add(
                section.At(DeliveryKeys.Identity),
                $"no identity is named '{named}'",
                Nearest.Hint(named, [.. identities.Keys], "identities"));
        return identity;
    }

    private List<string> Address(Key key)
    {
        var addresses = new List<string>();
        foreach (var (text, place) in section.Texts(key))
        {
            if (Confines.MailAddress(text) is null)
                addresses.Add(text);
            else
                _reading.Add(place, $"'{text}' is not a mail address", "write desk@brackwater.example, or Desk <desk@brackwater.example>");
        }

        return addresses;
    }

    private Template? Words(Key key)
    {
        if (section.RawText(key) is not { } text)
            return null;
        if (key == DeliveryKeys.Subject && Confines.Header(text) is { } wrong)
            _reading.Add(section.At(key), $"the subject contains {wrong}", "write it on one line");
        return _reading.FillBut(text, section.At(key), Delivery.Names);
    }

    private static string Subject(IReadOnlyList<Report> delivered, DeliveryTime when) =>
        when is DeliveryTime.Failed or DeliveryTime.Late
            ? ""
            : string.Join(", ", delivered.Select(report => report.Title)).Replace("{", "{{", StringComparison.Ordinal).Replace(
                "}", "}}", StringComparison.Ordinal) + ", {run.date}";
}
