using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What a refused sign-in usually means where the answer does not say more than a code or a status.</summary>
internal static class SignInUsual
{
    private static readonly string[] s_client = ["invalid_client", "unauthorized_client"];

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        // what is wrong on this side, and can be seen here
        Of(
            "white-space-in-id",
            "the client id has white space, probably copied along",
            "remove it from client-id:") with { When = WhiteSpaceInId, IsProof = true },
        Of(
            "white-space-in-secret-unsaid",
            "the secret has white space or a line break, probably copied along",
            "store the secret again without it: cursiva secret keep NAME, or printf '%s' instead of echo") with
            {
                When = WhiteSpaceInSecret,
                Errors = s_client,
                IsProof = true,
            },
        Of(
            "secret-id-for-value-unsaid",
            "the secret looks like an id: most likely the secret's id was copied instead of its value",
            "ask for a new secret and copy its value, which most servers show only once") with
            {
                When = SecretLooksLikeId,
                Errors = s_client,
                IsProof = true,
            },

        // what the answer names and was not sent
        Of(
            "client-auth-named",
            "the server names another client authentication than the one used",
            "set client-auth: {method}") with { When = OtherProof, IsProof = true },

        // codes of the standards
        Of(
            "client-refused",
            "the authorization server does not know this client, or the secret is wrong or has expired",
            "compare client-id and the secret's value with what the administrator gave") with
            {
                Statuses = [400, 401],
                Errors = ["invalid_client"],
                Never = Asserting,
            },
        Of(
            "grant-not-allowed-code",
            "this client may not use this grant",
            "ask the administrator to allow the grant for the client, or choose another grant:") with { Errors = ["unauthorized_client"] },
        Of(
            "grant-unknown-code",
            "the server does not offer this grant",
            "compare grant: with grant_types_supported of the server's metadata; the spelling is that of the standards") with
            {
                Errors = ["unsupported_grant_type"],
            },
        Of(
            "consent-missing-code",
            "the application has not been granted what it requests: an administrator or the person has to approve it",
            "ask an administrator to approve the application's permissions; check --live --wait 15m waits until that takes effect") with
            {
                Errors = ["consent_required"],
            },
        Of(
            "interaction-wanted-code",
            "a person has to do something in a browser: sign in again, give a second factor, or accept new terms",
            "sign in once more: cursiva sign-in JOB IDENTITY") with
            {
                Errors = ["interaction_required", "login_required", "account_selection_required"],
            },
        Of(
            "scope-unknown-code",
            "a scope is misspelt or not granted to this client",
            "compare scope: with the scopes that the administrator granted") with { Errors = ["invalid_scope"], Never = FixedKey },
        Of(
            "target-unknown-code",
            "the server does not know the requested audience or resource",
            "compare audience or resource under token-parameters: with the API's documentation") with
            {
                Errors = ["invalid_target", "invalid_resource"],
            },
        Of(
            "redirect-mismatch-code",
            "the redirect URI differs from those that are registered for the client",
            "register exactly this address, or set redirect-uri: to a registered one") with { Errors = ["redirect_uri_mismatch"] },
        Of(
            "server-in-trouble-code",
            "the authorization server has a problem",
            "try again later; nothing is lost, the next run resumes") with { Errors = ["server_error", "temporarily_unavailable"] },
        Of(
            "too-many-sign-ins-code",
            "too many requests to the authorization server",
            "run fewer jobs at once; the token cache lets runs of one identity share a token") with { Errors = ["slow_down"] },
        Of(
            "parameter-missing",
            "the request lacks a parameter that the authorization server requires, or the server expects another client authentication",
            "try the other client-auth:, and compare with the server's documentation of its token endpoint") with
            {
                Errors = ["invalid_request"],
            },
        Of(
            "person-refused-code",
            "the person's name or password is wrong, or the account may not sign in this way",
            "check username: and store the password again; better, use a grant that needs no password") with
            {
                Errors = ["invalid_grant"],
                When = PasswordSent,
            },
        Of(
            "person-refused-status",
            "the person's name or password is wrong, or the account may not sign in this way",
            "check username: and store the password again; better, use a grant that needs no password") with
            {
                Statuses = [401],
                When = PasswordSent,
            },
        Of(
            "access-denied",
            "the person, or a rule of the organisation, refused",
            "sign in again and accept, or ask the administrator which rule it is") with { Errors = ["access_denied"] },

        // statuses
        Of(
            "wants-json-status",
            "the token endpoint expects its parameters in another format",
            "set token-body: json, or form") with { Statuses = [415] },
        Of(
            "not-a-token-endpoint",
            "this address is not a token endpoint",
            "compare token-endpoint: with the server's published metadata") with { Statuses = [404] },
        Of(
            "wrong-method",
            "this address does not accept POST, so it is not a token endpoint",
            "compare token-endpoint: with the server's published metadata") with { Statuses = [405] },
        Of(
            "old-endpoint",
            "this version of the endpoint is no longer served",
            "use the newer address from the server's published metadata") with { Statuses = [410] },
        Of(
            "proxy-wants-name",
            "a proxy in between requires a sign-in",
            "put a name and password into HTTPS_PROXY, or NO_PROXY for this host") with { Statuses = [407] },
        Of("server-in-trouble", "the authorization server has a problem", "try again later; nothing is lost, the next run resumes") with
        {
            Statuses = [500, 502, 503, 504, 520, 521, 522, 523, 524],
        },
        Of(
            "too-many-sign-ins-status",
            "too many requests to the authorization server",
            "run fewer jobs at once; the token cache lets runs of one identity share a token") with { Statuses = [429] },
        Of(
            "sign-in-refused",
            "the authorization server refused the sign-in",
            "read the server's own words above, and compare the identity with what the administrator gave you"),
        Of(
            "html-for-token",
            "a web page answered instead of a token endpoint: a login page, a proxy, or a wrong address",
            "compare token-endpoint: with the server's published metadata") with { Trouble = Trouble.Html },
        Of(
            "answer-not-understood",
            "the answer is not the JSON that RFC 6749 section 5.1 describes",
            "compare token-endpoint: with the server's published metadata; if the token is elsewhere in the answer, set token-at:") with
            {
                Trouble = Trouble.NotUnderstood,
            },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.SignIn };
}
