namespace Cursiva.Core.Jobs;

/// <summary>A mail (RFC 5322) by SMTP (RFC 5321).</summary>
/// <param name="Host">The server's name or address.</param>
/// <param name="User">Who signs in; null for nobody.</param>
/// <param name="Password">Where the password is; null where nobody signs in.</param>
/// <param name="Identity">Whose access token signs the user in, in place of a password; null for a password or nobody.</param>
/// <param name="From">Who sends it: an address, with or without a name.</param>
/// <param name="Subject">Names of the run are filled in.</param>
/// <param name="Text">The words above; names of the run are filled in.</param>
/// <param name="Attach">The files that go along, as <c>write:</c> names them; null for all but the one that is the body.</param>
public sealed record MailWay(
    string Host,
    int Port,
    MailSecurity Security,
    string? User,
    SecretSource? Password,
    DeclaredIdentity? Identity,
    string From,
    Template Subject,
    Template? Text,
    IReadOnlyList<string>? Attach) : DeliveryWay
{
    /// <summary>Who receives it; empty where a query tells.</summary>
    public IReadOnlyList<string> To { get; init; } = [];

    /// <summary>
    /// Gives who receives it: a column of addresses, behind one with the value of the file where each has a mail of its own; null for none.
    /// </summary>
    public SqlSource? ToSql { get; init; }

    /// <summary>A PEM file with the certificate authorities that are trusted instead of the machine's, or null.</summary>
    public string? Trust { get; init; }

    /// <inheritdoc/>
    public override T Of<T>(IDeliveryWays<T> ways) => ways.Of(this);
}
