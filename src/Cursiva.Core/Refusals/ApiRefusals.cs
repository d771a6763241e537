using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What refusals of an API mean.</summary>
internal static class ApiRefusals
{
    private static readonly int[] s_refused = [401, 403];

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        // 401: who are you
        Of("token-missing", "the API wants a token, and none was sent", "name an identity: for the API") with { Statuses = [401], When = Anonymous },
        Of("wrong-audience", "the token is good, but it was issued for another audience than this API", "ask for the right one: scope:, or audience or resource under token-parameters:, as the API's description says") with { Statuses = s_refused, When = OtherAudience },
        Of("wrong-audience-words", "the token is good, but it was issued for another audience than this API", "ask for the right one: scope:, or audience or resource under token-parameters:, as the API's description says") with { Statuses = s_refused, Words = ["audience"] },
        Of("account-unknown", "the token is good, but the account does not exist inside the API", "have the application or person added as a user of the API itself, with a role there") with { Statuses = [401, 403, 404], Words = ["user does not exist", "unknown user", "user not found", "account does not exist", "no such account", "not a member"] },
        Of("scheme-wrong", "the API expects the token under another header or scheme", "set header: and scheme: of the identity as the API's description says") with { Statuses = [401], Words = ["scheme", "api key", "apikey"] },
        Of("token-refused", "the API does not accept the token, even a fresh one: most often it was issued for another audience or scope", "compare scope: of the identity and base: of the API with the API's description; cursiva token read --job JOB shows what the token has") with { Statuses = [401] },

        // 403: you may not
        Of("scope-missing", "the token lacks a scope that this path needs", "add the scope that the answer names to scope:, and have it granted") with { Statuses = s_refused, Errors = ["insufficient_scope"] },
        Of("api-not-enabled", "the API is not enabled for this client's project", "have it enabled: {link}") with { Statuses = [403], Words = ["has not been used in project", "not enabled", "api is disabled", "api has not been enabled"] },
        Of("licence-missing", "this tenant has no licence for it, or a module is not booked: theirs to mend, not ours", "ask the tenant's administrator, or let the job pass over such tenants") with { Statuses = [400, 402, 403], Words = ["licence", "license", "subscription", "module", "not booked"] },
        Of("persons-only", "this operation exists for persons only, and an application's token was sent", "use a grant with a person behind it (authorization_code and cursiva sign-in), or another operation") with { Statuses = s_refused, Words = ["application tokens", "app-only", "not supported for applications", "persons only", "delegated only", "user context"] },
        Of("persons-permission", "the token belongs to a person, or holds a person's permissions, where an application's are needed", "have the permission granted to the application itself, or sign in with client_credentials") with { Statuses = [403], When = PersonsToken, Words = ["application permission", "application role", "applications only", "app role"] },
        Of("role-missing-on-resource", "the application lacks a role on this very resource", "have it given a role on the resource (the site, folder, project or account), not only in the directory") with { Statuses = [403], Words = ["resource", "no role on", "not shared with"] },
        Of("application-role-missing", "the application's token lacks the role that this path needs", "ask the administrator to grant the application the role, and to consent to it; check --live --wait 15m tells when it has spread") with { Statuses = [403], When = ApplicationsToken, Words = ["role", "permission", "privilege"] },
        Of("permission-missing-in-token", "the token lacks something that permissions: names", "ask the administrator to grant it; cursiva token read --job JOB shows what the token has") with { Statuses = s_refused, When = PermissionMissing },
        Of("address-not-allowed-by-api", "the API lets in only certain addresses, and this machine's is not among them", "ask the administrator to allow this machine's outgoing address") with { Statuses = s_refused, Words = ["ip address", "ip not allowed", "not allowed from", "network location"] },
        Of("not-a-tester-of-api", "the application is being tested, and this account is not on its list", "have the account added to the testers, or the application published") with { Statuses = [403], Words = ["tester", "test user"] },
        Of("https-needed", "the API is served over https alone", "write https:// in base:") with { Words = ["https required", "ssl required", "use https", "requires https", "plain http"] },
        Of("permission-missing", "the token is good, but the application lacks a permission or role for this", "ask the administrator to grant the application the permission that this path needs") with { Statuses = [403] },

        // the address and the rest
        Of("old-version", "this version of the API is no longer served", "take the newer address from the API's description, and set base:") with { Statuses = [400, 404, 410], Words = ["version", "deprecated", "retired", "sunset", "no longer supported"] },
        Of("path-unknown", "the identity is let in, and there is nothing at this address: the path is misspelt, or base: misses a part such as the version", "compare get: and base: with the API's description") with { Statuses = [404] },
        Of("cursor-expired", "the cursor or link has expired on the server", "start afresh with --new") with { Statuses = [410] },
        Of("limit-used-up", "the API's limit is used up, perhaps by another program with the same client", "declare the limit under limits: at-most:, or lower use:") with { Statuses = [429] },
        Of("request-not-accepted", "the API did not accept the request as it was sent", "read the API's own words above and correct the path or its parameters") with { Statuses = [400, 422] },
        Of("proxy-wants-name-for-api", "a proxy in between wants to know who asks", "set HTTPS_PROXY with a name and password, or NO_PROXY for this host") with { Statuses = [407] },
        Of("api-in-trouble", "the API is in trouble and stayed so through all retries", "run the same command later: it goes on from the last checkpoint") with { Statuses = [500, 502, 503, 504] },
        Of("api-refused", "the API refused the request", "read the API's own words above"),
        Of("html-for-json", "a web page answered where the API should: a login page, a proxy, or a wrong base:", "compare base: with the API's description") with { Trouble = Trouble.Html },
        Of("page-not-understood", "the page is not what rows: and paging: expect", "fetch the page once by hand and compare it with rows: and paging: of the pull") with { Trouble = Trouble.NotUnderstood },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.Api };
}
