namespace Cursiva.Core.Jobs;

/// <summary>Where the other side's key, or one's own, is: a secret source, or the address of a JWK set (RFC 7517 section 5).</summary>
/// <param name="Source">The source; null for an address.</param>
/// <param name="Address">The address; null for a source.</param>
/// <param name="Id">The id of the key that is meant among several; it is sent as kid. Null for the only one.</param>
/// <param name="Password">The source of a private key's password; null for none.</param>
public sealed record KeySource(SecretSource? Source, Uri? Address, string? Id, SecretSource? Password)
{
    /// <summary>The word for the key that a sign-in brought.</summary>
    public const string Session = "session";

    /// <summary>Where it is, for messages.</summary>
    public override string ToString() => Source?.Text ?? Address!.AbsoluteUri;
}
