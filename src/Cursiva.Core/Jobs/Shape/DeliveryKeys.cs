namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of deliveries.</summary>
public static class DeliveryKeys
{
    private const string Filled = "{run.date}, {run.number}, {run.job}, {run.rows} and {run.message} can be used";

    // mail
    public static readonly Key Server = new("server", KeyKind.Text, "the mail server: HOST or HOST:PORT")
    {
        Required = true,
        Otherwise = "the port of security: (465, 587 or 25)",
        Example = "smtp.brackwater.example:587",
    };
    public static readonly Key Security = new(
        "security", KeyKind.Choice, "how the connection is protected; none only for a server on this machine")
    {
        Choices = ["tls", "starttls", "none"],
        Otherwise = "starttls",
    };
    public static readonly Key User = new("user", KeyKind.Text, "the user to sign in as")
    {
        Otherwise = "no sign-in",
        Example = "night-jobs",
    };
    public static readonly Key Password = new("password", KeyKind.SecretSource, "where the user's password is") { Example = "kept:mail" };
    public static readonly Key Identity = new(
        "identity",
        KeyKind.Text,
        "the identity whose access token the user signs in with (OAUTHBEARER, RFC 7628, or XOAUTH2), instead of a password")
    {
        Example = "mailer",
    };
    public static readonly Key From = new("from", KeyKind.Text, "the sender, with or without a name")
    {
        Required = true,
        Example = "Night jobs <night@brackwater.example>",
    };
    public static readonly Key ToSql = new(
        "sql",
        KeyKind.Text,
        "a query for addresses; with per: file, the first column has the value of file-per: and the second an address")
    {
        Required = true,
        Example = "select depot, mail from contacts",
    };
    public static readonly Section ToSection = new("to", "a query for the recipients", [ToSql]);
    public static readonly Key To = new("to", KeyKind.TextsOrSection, "the recipients: addresses, or a query for them")
    {
        Required = true,
        Inside = ToSection,
        Example = "[desk@brackwater.example]",
    };
    public static readonly Key Subject = new("subject", KeyKind.Text, "the subject; " + Filled)
    {
        Otherwise = "the report's title and the day; with when: failed, the job and how it ended",
        Example = "Late consignments, {run.date}",
    };
    public static readonly Key MailText = new("text", KeyKind.Text, "the plain text; " + Filled)
    {
        Otherwise = "a line that lists the attachments",
        Example = "Every consignment that is late this morning.",
    };
    public static readonly Key Attach = new("attach", KeyKind.Texts, "the files to attach, named as in write:, or none")
    {
        Otherwise = "all but .fragment.html, which becomes the body",
        Example = "[late.xlsx]",
    };
    public static readonly Section MailSection = new(
        "mail",
        "a mail with the reports, sent by SMTP",
        [Server, Security, User, Password, Identity, From, To, Subject, MailText, Attach, IdentityKeys.Trust]);

    // folder
    public static readonly Key FolderPath = new(
        "path", KeyKind.Text, "the folder, relative to the job file's folder; {run.date} and {run.number} can be used")
    {
        Required = true,
        Example = "/mnt/desk/late",
    };
    public static readonly Section FolderSection = new(
        "folder", "a folder to copy the files into, each under a temporary name first", [FolderPath]);

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
        "the fingerprint of the server's key, as ssh-keygen -l prints it; nothing is sent to a server with another key, and no key is trusted on first use")
    {
        Required = true,
        Example = "SHA256:uNiVztksCsDhcc0u9e8BrrMBSM7P+WsFAmM2V6hOaSo",
    };
    public static readonly Key SftpUser = new("user", KeyKind.Text, "the user to sign in as") { Required = true, Example = "night-jobs" };
    public static readonly Key SftpPassword = new("password", KeyKind.SecretSource, "where the user's password is")
    {
        Example = "kept:partner",
    };
    public static readonly Key SftpKey = new(
        "private-key", KeyKind.SecretSource, "where the user's private key is, instead of a password")
    {
        Example = "file:id_ed25519",
    };
    public static readonly Key SftpKeyPassword = new("key-password", KeyKind.SecretSource, "where the private key's password is")
    {
        Otherwise = "none",
        Example = "kept:partner-key",
    };
    public static readonly Key SftpPath = new(
        "path", KeyKind.Text, "the folder on the server, created if missing; {run.date} and {run.number} can be used")
    {
        Required = true,
        Example = "inbox/{run.date}",
    };
    public static readonly Section SftpSection = new(
        "sftp",
        "a server to upload the files to by SFTP, each under a temporary name first",
        [SftpServer, HostKey, SftpUser, SftpPassword, SftpKey, SftpKeyPassword, SftpPath]);

    // table
    public static readonly Key TableServer = new("server", KeyKind.Text, "the PostgreSQL server: HOST or HOST:PORT")
    {
        Required = true,
        Otherwise = "port 5432",
        Example = "db.brackwater.example",
    };
    public static readonly Key TableSecurity = new(
        "security", KeyKind.Choice, "how the connection is protected; tls checks the certificate, none is only for a server on this machine")
    {
        Choices = ["tls", "none"],
        Otherwise = "tls",
    };
    public static readonly Key DatabaseName = new("database", KeyKind.Text, "the database") { Required = true, Example = "freight" };
    public static readonly Key TableUser = new("user", KeyKind.Text, "the user to sign in as") { Required = true, Example = "night-jobs" };
    public static readonly Key TablePassword = new("password", KeyKind.SecretSource, "where the user's password is")
    {
        Otherwise = "none",
        Example = "kept:database",
    };
    public static readonly Key TableName = new("table", KeyKind.Text, "the table, with or without its schema; created if missing")
    {
        Required = true,
        Example = "exchange.late",
    };
    public static readonly Key TableSql = new(
        "sql", KeyKind.Text, "one SELECT over pulls and views for the rows; its columns must have the names of the table's columns")
    {
        Required = true,
        Example = "select * from late",
    };
    public static readonly Key Rows = new(
        "rows",
        KeyKind.Choice,
        "what happens to existing rows: replace deletes them, append keeps them, merge replaces those that have the key of a new row")
    {
        Choices = ["replace", "append", "merge"],
        Otherwise = "replace",
    };
    public static readonly Key TableKey = new("key", KeyKind.Texts, "the columns that identify a row, for rows: merge")
    {
        Example = "[reference]",
    };
    public static readonly Section TableSection = new(
        "table",
        "a table of a PostgreSQL database, changed in one transaction",
        [TableServer, TableSecurity, DatabaseName, TableUser, TablePassword, TableName, TableSql, Rows, TableKey, IdentityKeys.Trust]);

    // message
    public static readonly Key Address = new(
        "address", KeyKind.SecretSource, "where the address is; it is a secret, since whoever has it can post there")
    {
        Required = true,
        Example = "kept:desk-channel",
    };
    public static readonly Key Body = new("body", KeyKind.Anything, "the JSON to post; " + Filled)
    {
        Otherwise = "{ text: \"{run.message}\" }",
        Example = "{ text: \"{run.rows} consignments are late\" }",
    };
    public static readonly Key Largest = new(
        "largest", KeyKind.Number, "the most bytes that the other side accepts, 100 to 10000000; a larger body is reported and not sent")
    {
        Least = 100,
        Most = 10_000_000,
        Otherwise = "no limit",
        Example = "28000",
    };
    public static readonly Section MessageSection = new(
        "message", "posts JSON to an address of a chat or incident tool", [Address, Body, Largest]);

    // deliveries
    public static readonly Key Report = new("report", KeyKind.Texts, "the reports whose files to deliver")
    {
        Otherwise = "none; only when: failed, message: and table: can do without",
        Example = "late",
    };
    public static readonly Key When = new(
        "when",
        KeyKind.Choice,
        "which runs to deliver after. always: every run that wrote the reports. rows: runs whose reports have rows. changed: runs whose rows differ from those delivered last. failed: runs that failed, with the terminal's message. late: no run, but when cursiva overview --late finds a job late, failed or unusual, or something about to expire")
    {
        Choices = ["always", "rows", "changed", "failed", "late"],
        Otherwise = "always",
    };
    public static readonly Key Per = new(
        "per",
        KeyKind.Choice,
        "file sends each file in a mail of its own, only to the recipients that to: { sql: } returns for that file; run sends one mail")
    {
        Choices = ["run", "file"],
        Otherwise = "run",
    };
    public static readonly Key Mail = new("mail", KeyKind.Section, "sends a mail") { Inside = MailSection };
    public static readonly Key Folder = new("folder", KeyKind.Section, "copies the files into a folder") { Inside = FolderSection };
    public static readonly Key Sftp = new("sftp", KeyKind.Section, "uploads the files by SFTP") { Inside = SftpSection };
    public static readonly Key Table = new("table", KeyKind.Section, "writes rows into a database table") { Inside = TableSection };
    public static readonly Key Upload = new("upload", KeyKind.Section, "uploads the files to an API") { Inside = UploadKeys.Section };
    public static readonly Key Message = new("message", KeyKind.Section, "posts a message") { Inside = MessageSection };
    public static readonly Section Section = new(
        "delivery",
        "sends written reports to people or systems, once",
        [Report, When, Per, Mail, Folder, Sftp, Upload, Table, Message, LedgerKeys.WhenInDoubt, LedgerKeys.DeliverWithin]);

    /// <summary>The ways that a delivery can go.</summary>
    public static IReadOnlyList<Key> Ways { get; } = [Mail, Folder, Sftp, Upload, Table, Message];
}
