namespace Cursiva.Core.Jobs;

/// <summary>Files are put on a server by SFTP.</summary>
/// <param name="HostKey">The SHA-256 fingerprint of the server's key, in base64 without its padding.</param>
/// <param name="User">Who signs in.</param>
/// <param name="Password">Where the password is; null where a key signs in.</param>
/// <param name="Key">Where the private key is; null where a password signs in.</param>
/// <param name="KeyPassword">Where the password of the private key is; null for none.</param>
/// <param name="Path">The folder on the server; names of the run are filled in.</param>
public sealed record SftpWay(
    string Host,
    int Port,
    string HostKey,
    string User,
    SecretSource? Password,
    SecretSource? Key,
    SecretSource? KeyPassword,
    Template Path) : DeliveryWay
{
    /// <inheritdoc/>
    public override T Of<T>(IDeliveryWays<T> ways) => ways.Of(this);
}
