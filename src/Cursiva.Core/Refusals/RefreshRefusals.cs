using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What it means when a refresh token or an authorization code is refused.</summary>
internal static class RefreshRefusals
{
    private const string SignInAgain = "sign in once more: cursiva sign-in JOB IDENTITY";
    public const string CutShortCause =
        "an earlier process was interrupted between sending the refresh token and storing its successor, and the server has since revoked the whole family";

    private static readonly string[] s_grant = ["invalid_grant"];
    private static readonly Saying s_used = new(
        "it was used before",
        "(already )?(used|redeemed|consumed|superseded|rotated|exchanged|swapped|spent)( (already|before|earlier))?",
        "re ?used?( \\w+)?",
        "(once|one use|single use)( only)?",
        "newer (refresh )?token( exists)?",
        "(older|old|previous|earlier) (refresh )?token",
        "rotation (violation|violated|conflict|error)",
        "(came|come|comes) back")
    { Unless = new("it was not used", "without use", "not used", "last used", "unused") };
    private static readonly Saying s_usedOrRevoked = new(
        "it was used before, or taken back for that", [.. s_used.Ways, "revoked", "family", "not known", "unknown"])
    {
        Unless = s_used.Unless,
    };
    private static readonly Saying s_expired = new(
        "it has expired",
        "<ended>",
        "inactiv\\w+",
        "session( [^.]{0,30}?)? not active",
        "idle( \\w+)?",
        "too long",
        "without use",
        "last used( \\w+){0,4} ago",
        "unused( \\w+)?",
        "maximum age",
        "stale");

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        Of("refresh-cut-short", CutShortCause, SignInAgain) with { When = Refreshing | CutShort, Errors = s_grant, Says = s_usedOrRevoked },
        Of("refresh-cut-short-unsaid", CutShortCause, SignInAgain) with { When = Refreshing | CutShort, Errors = s_grant, IsProof = true },
        Of(
            "refresh-of-other-client",
            "the refresh token belongs to another client",
            "compare client-id: with the client that signed in, or sign in once more: cursiva sign-in JOB IDENTITY") with
            {
                When = Refreshing,
                Says = new(
                    "it belongs to another client",
                    "(another|different|other|wrong) client",
                    "(issued|given|belongs|bound) to client( \\w+)?",
                    "(presented|sent|used) by( another)? client",
                    "clients? (do|does) not match",
                    "token client and authori[sz]ed client"),
            },
        Of(
            "refresh-revoked",
            "the refresh token was revoked: by the person, by a changed password, or by the administrator",
            SignInAgain) with
            {
                When = Refreshing,
                Says = new(
                    "it was taken back",
                    "revoked",
                    "revocation",
                    "withdr\\w+",
                    "taken back",
                    "cancell?ed",
                    "removed( \\w+)? (the |this )?(app|application|access|consent)",
                    "pass(word|phrase) (was|has been) (changed|reset)",
                    "sessions?~ended by",
                    "no longer (authori[sz]ed|connected)"),
            },
        Of(
            "refresh-used",
            "the refresh token was already used: another program or machine uses the same one",
            "let one program have it: sign in once more with cursiva sign-in JOB IDENTITY, and give the other program its own") with
            {
                When = Refreshing,
                Says = s_used,
            },
        Of(
            "refresh-expired",
            "the refresh token has expired: it was unused for too long, or its lifetime is over",
            "sign in once more: cursiva sign-in JOB IDENTITY; a schedule that runs more often keeps it fresh") with
            {
                When = Refreshing,
                Says = s_expired,
            },
        Of(
            "refresh-refused",
            "the refresh token is no longer valid: it has expired, was revoked, or was used by another program",
            SignInAgain) with { Errors = s_grant, When = Refreshing },
        Of(
            "code-used",
            "the authorization code was already used",
            "sign in again: a code can be used only once") with { When = Redeeming, Says = s_used },
        Of(
            "code-expired",
            "the authorization code has expired",
            "sign in again, and paste the answer within a minute") with { When = Redeeming, Says = s_expired },
        Of(
            "code-refused",
            "the authorization code is not valid: expired, already used, or from another sign-in",
            "sign in again, and use the newest answer") with { Errors = s_grant, When = Redeeming },
        Of(
            "device-expired",
            "nobody confirmed in time",
            "run the command again, and confirm within the time it shows") with { Errors = ["expired_token"] },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.SignIn };
}
