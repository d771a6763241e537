namespace Cursiva.Core.Jobs;

/// <summary>What the identity's assertions say (RFC 7523 section 3) where it differs from the usual.</summary>
public sealed record DeclaredAssertion
{
    /// <summary>The longest life of an assertion.</summary>
    public static readonly TimeSpan LongestLifetime = TimeSpan.FromMinutes(5);

    /// <summary><c>aud</c>; otherwise the token endpoint.</summary>
    public string? Audience { get; init; }

    /// <summary><c>iss</c>; otherwise the client id.</summary>
    public string? Issuer { get; init; }

    /// <summary><c>sub</c> of a jwt-bearer grant; otherwise the issuer.</summary>
    public string? Subject { get; init; }

    /// <summary>From <c>iat</c> to <c>exp</c>; more than nothing and at most five minutes.</summary>
    public TimeSpan Lifetime { get; init; } = TimeSpan.FromMinutes(2);

    /// <summary><c>alg</c>, one of <see cref="Algorithms"/>; null lets the key decide.</summary>
    public string? Algorithm { get; init; }

    /// <summary>Whether the certificate itself is sent along, as <c>x5c</c>.</summary>
    public bool SendCertificate { get; init; }

    /// <summary>Further claims of a jwt-bearer grant.</summary>
    public IReadOnlyDictionary<string, string> Claims { get; init; } = new Dictionary<string, string>();

    /// <summary>The signature algorithms (RFC 7518 section 3.1) that are offered.</summary>
    public static IReadOnlyList<string> Algorithms { get; } = ["RS256", "PS256", "ES256", "ES384"];
}
