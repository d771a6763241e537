namespace Cursiva.Core.Refusals;

/// <summary>Who can mend a refusal: time, an administrator of the other side, or only whoever keeps the job.</summary>
public static class Remedies
{
    private static readonly HashSet<string> s_permissions = new(StringComparer.Ordinal)
    {
        "consent-missing", "consent-missing-code", "consent-missing-for-api", "scope-missing", "scope-missing-code", "application-role-missing",
        "role-missing-on-resource", "permission-missing-said", "permission-missing-in-token", "permission-missing",
    };

    private static readonly HashSet<string> s_administrators = new(s_permissions, StringComparer.Ordinal)
    {
        "not-a-tester", "not-a-tester-of-api", "licence-missing", "licence-missing-at-sign-in", "api-not-enabled", "grant-not-allowed",
        "grant-not-allowed-code", "client-disabled", "account-disabled", "address-not-allowed", "address-not-allowed-by-api", "access-denied",
        "key-not-registered", "account-unknown",
    };

    private static readonly HashSet<string> s_passing = new(s_administrators, StringComparer.Ordinal)
    {
        "client-unknown", "tenant-unknown", "client-refused-key", "scope-unknown", "scope-unknown-code", "target-unknown", "target-unknown-code",
        "server-in-trouble", "server-in-trouble-code", "too-many-sign-ins", "too-many-sign-ins-code", "too-many-sign-ins-status", "token-refused",
        "limit-used-up", "limit-used-up-said", "quota-used-up", "gateway-trouble", "api-in-trouble", "maintenance", "unreachable",
        "proxy-unreachable", "silent", "cut-off",
    };

    private static readonly HashSet<string> s_otherWays = new(StringComparer.Ordinal)
    {
        "client-refused", "client-auth-wanted", "client-auth-named", "client-unknown", "secret-wrong", "client-refused-key", "assertion-refused",
        "assertion-audience", "key-not-registered", "sign-in-refused", "scope-wanted", "scope-unknown", "scope-unknown-code", "target-wanted",
        "target-unknown", "target-unknown-code", "wants-form", "wants-json", "wants-json-status", "parameter-missing", "parameter-missing-words",
        "access-denied", "answer-not-understood", "grant-not-allowed-code", "token-refused", "wrong-audience", "wrong-audience-said", "token-malformed", "api-refused",
        "not-acceptable", "media-type", "request-not-accepted", "permission-missing", "token-missing",
        "person-refused-code", "person-refused-status",
    };

    /// <summary>The entries of the catalogue that are named here, for tests.</summary>
    public static IEnumerable<string> Known => s_passing.Concat(s_otherWays);

    /// <summary>Whether something has to be granted.</summary>
    public static bool IsPermission(Refusal refusal) => refusal.Diagnosis is { } id && s_permissions.Contains(id);

    /// <summary>Whether an administrator of the other side can mend it.</summary>
    public static bool IsAdministrators(Refusal refusal) => refusal.Diagnosis is { } id && s_administrators.Contains(id);

    /// <summary>Whether another way to ask for the same could change it.</summary>
    public static bool MayBeTheWay(Refusal refusal) => refusal.Diagnosis is { } id && s_otherWays.Contains(id);

    /// <summary>Whether it may go away without a change of the job or its secrets: a grant that is new, or trouble over there.</summary>
    public static bool MayPass(Refusal refusal) => refusal.Diagnosis is { } id && s_passing.Contains(id);
}
