namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of deliveries.</summary>
public static class DeliveryKeys
{
    // mail
    public static readonly Key Server = new("server", KeyKind.Text, "the mail server: HOST or HOST:PORT") { Required = true, Otherwise = "the port of security: (465, 587 or 25)", Example = "smtp.brackwater.example:587" };
    public static readonly Key Security = new("security", KeyKind.Choice, "how the way to it is protected; none is for a server on this machine") { Choices = ["tls", "starttls", "none"], Otherwise = "starttls" };
    public static readonly Key User = new("user", KeyKind.Text, "who signs in there") { Otherwise = "nobody", Example = "night-jobs" };
    public static readonly Key Password = new("password", KeyKind.SecretSource, "where the password of user: is") { Example = "kept:mail" };
    public static readonly Key Identity = new("identity", KeyKind.Text, "the identity whose access token signs user: in there (OAUTHBEARER, RFC 7628, or XOAUTH2), in place of a password") { Example = "mailer" };
    public static readonly Key From = new("from", KeyKind.Text, "who sends the mail, with or without a name") { Required = true, Example = "Night jobs <night@brackwater.example>" };
    public static readonly Key To = new("to", KeyKind.Texts, "who receives it") { Required = true, Example = "[desk@brackwater.example]" };
    public static readonly Key Subject = new("subject", KeyKind.Text, "its subject; {run.date} and {run.number} may be used") { Otherwise = "the report's title and the day; of when: failed, the job and how it ended", Example = "Late consignments, {run.date}" };
    public static readonly Key MailText = new("text", KeyKind.Text, "its plain text; {run.date} and {run.number} may be used") { Otherwise = "a line that says what is attached", Example = "Every consignment that is late this morning." };
    public static readonly Key Attach = new("attach", KeyKind.Texts, "the files that go along, as write: names them, or none") { Otherwise = "all but a .fragment.html, which becomes the body", Example = "[late.xlsx]" };
    public static readonly Section MailSection = new("mail", "a mail with the reports, sent by SMTP", [Server, Security, User, Password, Identity, From, To, Subject, MailText, Attach]);

    // folder
    public static readonly Key FolderPath = new("path", KeyKind.Text, "the folder, from the job file's folder; {run.date} and {run.number} may be used") { Required = true, Example = "/mnt/desk/late" };
    public static readonly Section FolderSection = new("folder", "a folder that the files are copied into, each under a temporary name first", [FolderPath]);

    // deliveries
    public static readonly Key Report = new("report", KeyKind.Texts, "the reports whose files are delivered") { Otherwise = "none, for when: failed", Example = "late" };
    public static readonly Key When = new("when", KeyKind.Choice, "after which runs: all that wrote the reports; where these have rows; where their rows are others than those delivered last; or after a run that did not end well, with what the terminal says") { Choices = ["always", "rows", "changed", "failed"], Otherwise = "always" };
    public static readonly Key Mail = new("mail", KeyKind.Section, "as a mail") { Inside = MailSection };
    public static readonly Key Folder = new("folder", KeyKind.Section, "into a folder") { Inside = FolderSection };
    public static readonly Key WhenInDoubt = new("when-in-doubt", KeyKind.Choice, "what becomes of a delivery that may have left already, since the process or the connection ended meanwhile: it is held until somebody decides with cursiva ledger, or repeated") { Choices = ["hold", "repeat"], Otherwise = "hold" };
    public static readonly Key DeliverWithin = new("deliver-within", KeyKind.Duration, "how long it is tried by later starts; then it is given up") { Otherwise = "1d", Example = "4h" };
    public static readonly Section Section = new("delivery", "takes written reports to people or systems, once", [Report, When, Mail, Folder, WhenInDoubt, DeliverWithin]);
}
