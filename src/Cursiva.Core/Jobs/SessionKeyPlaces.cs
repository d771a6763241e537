namespace Cursiva.Core.Jobs;

/// <summary>How a sign-in comes by a session key.</summary>
/// <param name="Bytes">The length of the fresh key that goes along, 16 to 64.</param>
/// <param name="SendAt">Where the fresh key stands in the body of the sign-in.</param>
public sealed record SessionKeyPlaces(int Bytes, JsonPointer SendAt)
{
    /// <summary>Whether the fresh key is put into base64 before it is encrypted; otherwise its bytes are encrypted.</summary>
    public bool SendsText { get; init; }

    /// <summary>Where the answer has the session key, wrapped under the fresh one; null where the fresh key is the session key.</summary>
    public JsonPointer? AnswerAt { get; init; }

    /// <summary>One of <see cref="Ciphers.OfSessionKeys"/>.</summary>
    public string Wrapped { get; init; } = Ciphers.Ecb;

    /// <summary>Where the answer says when the session key ends; null where it ends with the token.</summary>
    public JsonPointer? EndsAt { get; init; }
}
