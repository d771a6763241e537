namespace Cursiva.Core.Jobs;

/// <summary>How bodies are encrypted and answers opened.</summary>
/// <param name="Cipher">One of <see cref="Ciphers.OfBodies"/>.</param>
/// <param name="Key">What bodies are encrypted under; null for the session key of the sign-in.</param>
public sealed record BodyEncryption(string Cipher, KeySource? Key)
{
    /// <summary>One's own key that answers are opened with; null for the one that bodies are encrypted under.</summary>
    public KeySource? OpenWith { get; init; }

    /// <summary>How the content key is handed over; null for the usual way of the key.</summary>
    public string? Algorithm { get; init; }

    /// <summary>How the content of a JWE is encrypted.</summary>
    public string Content { get; init; } = Ciphers.OfContents[0];

    /// <summary>Where what is sent has the encrypted body; null where it is what is sent.</summary>
    public JsonPointer? RequestAt { get; init; }

    /// <summary>The members that are encrypted, each in its place; empty for the whole body.</summary>
    public IReadOnlyList<JsonPointer> Members { get; init; } = [];

    /// <summary>Where an answer has the encrypted text; null where the answer is that text.</summary>
    public JsonPointer? AnswerAt { get; init; }

    /// <summary>Where the envelope has the wrapped key of this one message; null where none is sent.</summary>
    public JsonPointer? KeyAt { get; init; }

    /// <summary>Whether what is encrypted is put into base64 first.</summary>
    public bool Base64First { get; init; }

    /// <summary>Whether each line of a streamed answer is encrypted by itself.</summary>
    public bool ByLine { get; init; }

    /// <summary>Answers, whatever their status, that say that the session key has ended.</summary>
    public IReadOnlyList<KeyValuePair<JsonPointer, IReadOnlyList<string>>> RefusedWhen { get; init; } = [];
}
