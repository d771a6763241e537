namespace Cursiva.Core.Jobs;

/// <summary>What of a sign-in is encrypted, and the session key that it brings.</summary>
/// <param name="Key">The other side's public key.</param>
/// <param name="Algorithm">One of <see cref="Ciphers.UnderPublicKeys"/>.</param>
public sealed record SignInEncryption(KeySource Key, string Algorithm)
{
    /// <summary>The members of the body that are encrypted, each by itself; empty for the whole body.</summary>
    public IReadOnlyList<JsonPointer> Members { get; init; } = [];

    /// <summary>Where the whole encrypted body stands in what is sent; null where it is what is sent.</summary>
    public JsonPointer? At { get; init; }

    /// <summary>How the content of a JWE is encrypted; null for plain RSA.</summary>
    public string? Content { get; init; }

    /// <summary>Whether what is encrypted is put into base64 first.</summary>
    public bool Base64First { get; init; }

    /// <summary>Where the answer has a part that is encrypted under the fresh key; null where the answer is plain.</summary>
    public JsonPointer? AnswerAt { get; init; }

    /// <summary>The key that further requests are encrypted under; null for none.</summary>
    public SessionKeyPlaces? SessionKey { get; init; }
}
