using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>What came of a token request: an answer that counts, or a refusal.</summary>
/// <param name="AskedAt">When it was sent: lifetimes count from there, since how long the answer took is not known to be short.</param>
/// <param name="WasAnswered">Whether the server answered at all.</param>
internal sealed record TokenReply(TokenAnswer Answer, DateTimeOffset AskedAt, Refusal? Refusal, bool WasAnswered)
{
    public string? Error => Answer.Error;

    /// <summary>The request it was, for messages.</summary>
    public string? Request { get; init; }

    /// <summary>The key that the sign-in agreed on; null for none.</summary>
    public SessionKey? SessionKey { get; init; }

    /// <summary>How far the server's clock is ahead of this machine's; null when it did not say.</summary>
    public TimeSpan? ClockDifference { get; init; }

    /// <summary>The answer.</summary>
    /// <exception cref="RefusedException">It was refused.</exception>
    public TokenAnswer Good() => Refusal is null ? Answer : throw new RefusedException(Refusal);
}
