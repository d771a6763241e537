namespace Cursiva.Core.Jobs;

/// <summary>Where a private key and its certificate are.</summary>
/// <param name="Private">The source of a PKCS #12 or PEM file with the private key, encrypted or not.</param>
/// <param name="Certificate">A file with the certificate, when it does not come with the key.</param>
/// <param name="Password">The source of the password of the key.</param>
/// <param name="KeyId">The key's id at the server, for the <c>kid</c> header.</param>
public sealed record DeclaredKey(SecretSource Private, string? Certificate, SecretSource? Password, string? KeyId);
