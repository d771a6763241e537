namespace Cursiva.Core.Identity;

/// <summary>
/// What claims mean, in plain words: those of RFC 7519, RFC 8693, RFC 9068 and OpenID Connect, and some that several servers use.
/// </summary>
public static class ClaimWords
{
    private static readonly Dictionary<string, string> s_words = new(StringComparer.Ordinal)
    {
        ["iss"] = "who issued it",
        ["sub"] = "the subject: who or what the token is for",
        ["aud"] = "the API it is meant for; others should refuse it",
        ["exp"] = "valid until",
        ["nbf"] = "not valid before",
        ["iat"] = "issued at",
        ["jti"] = "the token's id",
        ["client_id"] = "the client it was issued to",
        ["azp"] = "the client it was issued to",
        ["appid"] = "the client it was issued to",
        ["scope"] = "what it may do (scopes)",
        ["scp"] = "what it may do for a person (scopes)",
        ["roles"] = "what it may do (roles)",
        ["permissions"] = "what it may do",
        ["groups"] = "the groups that the subject belongs to",
        ["entitlements"] = "what the subject is entitled to",
        ["auth_time"] = "when the person last signed in",
        ["acr"] = "how strongly the person signed in",
        ["amr"] = "how the person signed in",
        ["nonce"] = "ties it to one sign-in",
        ["cnf"] = "the key or certificate that it must be used with",
        ["act"] = "who acts for the subject",
        ["sid"] = "the session it belongs to",
        ["tenant"] = "the tenant it is for",
        ["tid"] = "the tenant it is for",
        ["idtyp"] = "whether it is a person's or an application's",
        ["name"] = "the person's name",
        ["given_name"] = "the person's first name",
        ["family_name"] = "the person's last name",
        ["email"] = "the person's mail address",
        ["preferred_username"] = "the name the person signs in with",
        ["upn"] = "the name the person signs in with",
        ["ver"] = "the version of the token's format",
    };

    private static readonly string[] s_times = ["exp", "nbf", "iat", "auth_time", "updated_at"];

    /// <summary>What a claim means; empty when it is not known.</summary>
    public static string Of(string claim) => s_words.GetValueOrDefault(claim, "");

    /// <summary>Whether a claim holds a time.</summary>
    public static bool IsTime(string claim) => s_times.Contains(claim);
}
