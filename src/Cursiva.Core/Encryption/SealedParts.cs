namespace Cursiva.Core.Encryption;

/// <summary>The parts of a JWE for one recipient, whatever form it came in.</summary>
/// <param name="Header">The protected header as JSON.</param>
/// <param name="Algorithm">How the content key was wrapped (alg); null where no header says.</param>
/// <param name="Content">How the content was encrypted (enc); null where no header says.</param>
/// <param name="KeyId">Whose key opens it (kid); null where no header says.</param>
/// <param name="Proven">What the tag proves beside the cipher text (RFC 7516 section 5.1, step 14).</param>
internal sealed record SealedParts(string Header, string? Algorithm, string? Content, string? KeyId, string Proven)
{
    /// <summary>What is said of a text that is none.</summary>
    public const string NoJwe =
        "it is not a JWE: the compact form has five parts with dots between them, the JSON forms have ciphertext and encrypted_key or recipients";

    /// <summary>The content key, wrapped.</summary>
    public required byte[] Wrapped { get; init; }

    /// <summary>The initialisation vector.</summary>
    public required byte[] Vector { get; init; }

    /// <summary>The cipher text.</summary>
    public required byte[] Cipher { get; init; }

    /// <summary>The authentication tag.</summary>
    public required byte[] Tag { get; init; }
}
