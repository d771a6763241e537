namespace Cursiva.Core.Jobs;

/// <summary>The forms of signatures.</summary>
public static class SignatureForms
{
    /// <summary>A signed text that has its payload in it: JWS, compact or JSON (RFC 7515 section 7).</summary>
    public const string Jws = "jws";

    /// <summary>A JWS whose payload goes another way (RFC 7515 appendix F).</summary>
    public const string Detached = "jws-detached";

    /// <summary>A signature over parts of the HTTP message (RFC 9421).</summary>
    public const string Message = "http-message";

    /// <summary>HMAC-SHA-256 over a text of the job's own.</summary>
    public const string Hmac = "hmac-sha256";

    /// <summary>What a request may be signed by.</summary>
    public static IReadOnlyList<string> OfRequests { get; } = [Message, Detached, Jws, Hmac];

    /// <summary>What an answer or a row may be signed by.</summary>
    public static IReadOnlyList<string> OfAnswers { get; } = [Jws, Detached, Message];
}
