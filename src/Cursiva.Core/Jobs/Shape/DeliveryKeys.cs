namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of deliveries.</summary>
public static class DeliveryKeys
{
    private const string Filled = "{run.date}, {run.number}, {run.job}, {run.rows} and {run.told} may be used";

    // mail
    public static readonly Key Server = new("server", KeyKind.Text, "the mail server: HOST or HOST:PORT")
    {
        Required = true,
        Otherwise = "the port of security: (465, 587 or 25)",
        Example = "smtp.brackwater.example:587",
    };
    public static readonly Key Security = new(
        "security", KeyKind.Choice, "how the way to it is protected; none is for a server on this machine")
    {
        Choices = ["tls", "starttls", "none"],
        Otherwise = "starttls",
    };
    public static readonly Key User = new("user", KeyKind.Text, "who signs in there") { Otherwise = "nobody", Example = "night-jobs" };
    public static readonly Key Password = new("password", KeyKind.SecretSource, "where the password of user: is") { Example = "kept:mail" };
    public static readonly Key Identity = new(
        "identity",
        KeyKind.Text,
        "the identity whose access token signs user: in there (OAUTHBEARER, RFC 7628, or XOAUTH2), in place of a password")
    {
        Example = "mailer",
    };
    public static readonly Key From = new("from", KeyKind.Text, "who sends the mail, with or without a name")
    {
        Required = true,
        Example = "Night jobs <night@brackwater.example>",
    };
    public static readonly Key ToSql = new(
        "sql",
        KeyKind.Text,
        "a query of addresses; with per: file, its first column has the value of the file and its second one an address")
    {
        Required = true,
        Example = "select depot, mail from contacts",
    };
    public static readonly Section ToSection = new("to", "who receives it, from a query", [ToSql]);
    public static readonly Key To = new("to", KeyKind.TextsOrSection, "who receives it: addresses, or a query of them")
    {
        Required = true,
        Inside = ToSection,
        Example = "[desk@brackwater.example]",
    };
    public static readonly Key Subject = new("subject", KeyKind.Text, "its subject; " + Filled)
    {
        Otherwise = "the report's title and the day; of when: failed, the job and how it ended",
        Example = "Late consignments, {run.date}",
    };
    public static readonly Key MailText = new("text", KeyKind.Text, "its plain text; " + Filled)
    {
        Otherwise = "a line that says what is attached",
        Example = "Every consignment that is late this morning.",
    };
    public static readonly Key Attach = new("attach", KeyKind.Texts, "the files that go along, as write: names them, or none")
    {
        Otherwise = "all but a .fragment.html, which becomes the body",
        Example = "[late.xlsx]",
    };
    public static readonly Section MailSection = new(
        "mail",
        "a mail with the reports, sent by SMTP",
        [Server, Security, User, Password, Identity, From, To, Subject, MailText, Attach, IdentityKeys.Trust]);

    // folder
    public static readonly Key FolderPath = new(
        "path", KeyKind.Text, "the folder, from the job file's folder; {run.date} and {run.number} may be used")
    {
        Required = true,
        Example = "/mnt/desk/late",
    };
    public static readonly Section FolderSection = new(
        "folder", "a folder that the files are copied into, each under a temporary name first", [FolderPath]);

    // sftp
    public static readonly Key SftpServer = new("server", KeyKind.Text, "the server: HOST or HOST:PORT")
    {
        Required = true,
        Otherwise = "port 22",
        Example = "sftp.brackwater.example",
    };
    public static readonly Key HostKey = new(
        "host-key",
        KeyKind.Text,
        "the fingerprint of the server's key, as ssh-keygen -l prints it; a server that shows another key is not signed in to, and none is trusted by itself")
    {
        Required = true,
        Example = "SHA256:uNiVztksCsDhcc0u9e8BrrMBSM7P+WsFAmM2V6hOaSo",
    };
    public static readonly Key SftpUser = new("user", KeyKind.Text, "who signs in there") { Required = true, Example = "night-jobs" };
    public static readonly Key SftpPassword = new("password", KeyKind.SecretSource, "where the password of user: is")
    {
        Example = "kept:partner",
    };
    public static readonly Key SftpKey = new(
        "private-key", KeyKind.SecretSource, "where the private key of user: is, in place of a password")
    {
        Example = "file:id_ed25519",
    };
    public static readonly Key SftpKeyPassword = new("key-password", KeyKind.SecretSource, "where the password of the private key is")
    {
        Otherwise = "none",
        Example = "kept:partner-key",
    };
    public static readonly Key SftpPath = new(
        "path", KeyKind.Text, "the folder there, made if it is missing; {run.date} and {run.number} may be used")
    {
        Required = true,
        Example = "inbox/{run.date}",
    };
    public static readonly Section SftpSection = new(
        "sftp",
        "a server that the files are put on by SFTP, each under a temporary name first",
        [SftpServer, HostKey, SftpUser, SftpPassword, SftpKey, SftpKeyPassword, SftpPath]);

    // table
    public static readonly Key TableServer = new("server", KeyKind.Text, "the PostgreSQL server: HOST or HOST:PORT")
    {
        Required = true,
        Otherwise = "port 5432",
        Example = "db.brackwater.example",
    };
    public static readonly Key TableSecurity = new(
        "security", KeyKind.Choice, "how the way to it is protected, its certificate checked; none is for a server on this machine")
    {
        Choices = ["tls", "none"],
        Otherwise = "tls",
    };
    public static readonly Key DatabaseName = new("database", KeyKind.Text, "the database") { Required = true, Example = "freight" };
    public static readonly Key TableUser = new("user", KeyKind.Text, "who signs in there") { Required = true, Example = "night-jobs" };
    public static readonly Key TablePassword = new("password", KeyKind.SecretSource, "where the password of user: is")
    {
        Otherwise = "none",
        Example = "kept:database",
    };
    public static readonly Key TableName = new("table", KeyKind.Text, "the table, with or without its schema; it is made if it is missing")
    {
        Required = true,
        Example = "exchange.late",
    };
    public static readonly Key TableSql = new(
        "sql", KeyKind.Text, "gives the rows: one SELECT over pulls and views; its columns have the names of the table's")
    {
        Required = true,
        Example = "select * from late",
    };
    public static readonly Key Rows = new(
        "rows",
        KeyKind.Choice,
        "what becomes of the rows that are there: they go, they stay, or those with the key of a new row are replaced by it")
    {
        Choices = ["replace", "append", "merge"],
        Otherwise = "replace",
    };
    public static readonly Key TableKey = new("key", KeyKind.Texts, "the columns that tell rows apart, for rows: merge")
    {
        Example = "[reference]",
    };
    public static readonly Section TableSection = new(
        "table",
        "a table of a PostgreSQL database, changed in one transaction",
        [TableServer, TableSecurity, DatabaseName, TableUser, TablePassword, TableName, TableSql, Rows, TableKey, IdentityKeys.Trust]);

    // message
    public static readonly Key Address = new(
        "address", KeyKind.SecretSource, "where the address is that it is posted to; whoever has it may post there, so it is a secret")
    {
        Required = true,
        Example = "kept:desk-channel",
    };
    public static readonly Key Body = new("body", KeyKind.Anything, "the JSON that is posted; " + Filled)
    {
        Otherwise = "{ text: \"{run.told}\" }",
        Example = "{ text: \"{run.rows} consignments are late\" }",
    };
    public static readonly Key Largest = new(
        "largest", KeyKind.Number, "how many bytes the other side takes, 100 to 10000000; a body that is larger is not sent, and told")
    {
        Least = 100,
        Most = 10_000_000,
        Otherwise = "any number",
        Example = "28000",
    };
    public static readonly Section MessageSection = new(
        "message", "a JSON body, posted to an address that a chat or incident tool gave", [Address, Body, Largest]);

    // deliveries
    public static readonly Key Report = new("report", KeyKind.Texts, "the reports whose files are delivered")
    {
        Otherwise = "none, for when: failed, message: and table:",
        Example = "late",
    };
    public static readonly Key When = new(
        "when",
        KeyKind.Choice,
        "after which runs: all that wrote the reports; where these have rows; where their rows are others than those delivered last; after a run that did not end well, with what the terminal says; or after no run, where cursiva overview --late finds a job late, failed, unusual, or something that ends")
    {
        Choices = ["always", "rows", "changed", "failed", "late"],
        Otherwise = "always",
    };
    public static readonly Key Per = new(
        "per",
        KeyKind.Choice,
        "whether each file of the reports has a mail of its own: with file, each recipient that to: { sql: } gives for a file gets this file and no other")
    {
        Choices = ["run", "file"],
        Otherwise = "run",
    };
    public static readonly Key Mail = new("mail", KeyKind.Section, "as a mail") { Inside = MailSection };
    public static readonly Key Folder = new("folder", KeyKind.Section, "into a folder") { Inside = FolderSection };
    public static readonly Key Sftp = new("sftp", KeyKind.Section, "by SFTP") { Inside = SftpSection };
    public static readonly Key Table = new("table", KeyKind.Section, "into a table of a database") { Inside = TableSection };
    public static readonly Key Upload = new("upload", KeyKind.Section, "to an API") { Inside = UploadKeys.Section };
    public static readonly Key Message = new("message", KeyKind.Section, "as a message to an address") { Inside = MessageSection };
    public static readonly Section Section = new(
        "delivery",
        "takes written reports to people or systems, once",
        [Report, When, Per, Mail, Folder, Sftp, Upload, Table, Message, LedgerKeys.WhenInDoubt, LedgerKeys.DeliverWithin]);

    /// <summary>The ways that a delivery can go.</summary>
    public static IReadOnlyList<Key> Ways { get; } = [Mail, Folder, Sftp, Upload, Table, Message];
}
