namespace Cursiva.Core.Refusals;

/// <summary>What Cursiva knows of its own side when something is refused.</summary>
[Flags]
public enum Circumstances
{
    /// <summary>Nothing special.</summary>
    None = 0,

    /// <summary>White space stands at an edge of the client id, or a control character in it.</summary>
    WhiteSpaceInId = 1 << 0,

    /// <summary>White space stands at an edge of the secret, or a control character in it.</summary>
    WhiteSpaceInSecret = 1 << 1,

    /// <summary>The secret has the form of an id (a UUID).</summary>
    SecretLooksLikeId = 1 << 2,

    /// <summary>The server's clock and this machine's differ by more than a minute.</summary>
    ClocksDiffer = 1 << 3,

    /// <summary>A process ended between sending the refresh token and keeping its successor.</summary>
    CutShort = 1 << 4,

    /// <summary>A refresh token was sent.</summary>
    Refreshing = 1 << 5,

    /// <summary>An authorization code was sent.</summary>
    Redeeming = 1 << 6,

    /// <summary>A device code was sent.</summary>
    Polling = 1 << 7,

    /// <summary>A signed assertion was sent.</summary>
    Asserting = 1 << 8,

    /// <summary>The token belongs to a person.</summary>
    PersonsToken = 1 << 9,

    /// <summary>The token belongs to the application itself.</summary>
    ApplicationsToken = 1 << 10,

    /// <summary>The token's audience is not what the job expects, or does not name the API's host.</summary>
    OtherAudience = 1 << 11,

    /// <summary>The token lacks something of <c>permissions:</c>.</summary>
    PermissionMissing = 1 << 12,

    /// <summary>No token was sent.</summary>
    Anonymous = 1 << 13,

    /// <summary>The environment names a proxy.</summary>
    Proxied = 1 << 14,

    /// <summary>A person's name and password were sent.</summary>
    PasswordSent = 1 << 15,

    /// <summary>A fixed key was sent, and no token.</summary>
    FixedKey = 1 << 16,

    /// <summary>The application signs in by itself: there is no person whose account could be locked.</summary>
    ApplicationAlone = 1 << 17,

    /// <summary>The API names schemes in its challenge, and what was sent is under none of them.</summary>
    OtherScheme = 1 << 18,

    /// <summary>The answer names registered client authentication methods, and what was sent is none of them.</summary>
    OtherProof = 1 << 19,
}
