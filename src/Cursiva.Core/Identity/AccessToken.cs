using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>An access token (RFC 6749 section 1.4), ready to be shown to an API.</summary>
/// <param name="Headers">The headers that show it, and those that go beside it.</param>
/// <param name="RenewAt">When it is time for the next one, ahead of its end.</param>
public sealed record AccessToken(SecretText Value, IReadOnlyList<KeyValuePair<string, SecretText>> Headers, DateTimeOffset RenewAt)
{
    /// <summary>Places of the token endpoint's answer, by placeholder.</summary>
    public IReadOnlyDictionary<string, string> Fields { get; init; } = new Dictionary<string, string>();

    /// <summary>Whether an earlier sign-in brought it: what was granted since then is not in it.</summary>
    public bool IsKept { get; init; }

    /// <summary>The scope that the server says it granted; null when it does not say.</summary>
    public string? Scope { get; init; }

    /// <summary>The key that the sign-in agreed on; null for none.</summary>
    public SessionKey? SessionKey { get; init; }

    /// <summary>How long the token was good for when it came.</summary>
    public TimeSpan Lifetime { get; init; }
}
