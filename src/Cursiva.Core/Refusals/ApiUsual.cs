using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What a refusal of an API usually means where the answer does not say more than a code or a status.</summary>
internal static class ApiUsual
{
    private static readonly int[] s_who = [401, 403];

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        // what this side knows
        Of("token-missing", "the API requires a token, and none was sent", "name an identity: for the API") with
        {
            Statuses = [401, 403],
            When = Anonymous,
            IsProof = true,
        },
        Of(
            "scheme-wanted-by-challenge",
            "the API expects another scheme than the one sent",
            "set scheme: {scheme} of the identity as the API's documentation says; for a name and password or a key, grant: header") with
            {
                Statuses = [401],
                When = OtherScheme,
                Never = Anonymous,
                IsProof = true,
            },
        Of(
            "wrong-audience",
            "the token is valid, but it was issued for another audience than this API",
            "request the right one: scope:, or audience or resource under token-parameters:, as the API's documentation says") with
            {
                Statuses = s_who,
                When = OtherAudience,
                IsProof = true,
            },
        Of(
            "permission-missing-in-token",
            "the token lacks something listed under permissions:",
            "ask the administrator to grant it; cursiva token read --job JOB shows what the token has") with
            {
                Statuses = s_who,
                When = PermissionMissing,
                IsProof = true,
            },
        Of(
            "key-refused",
            "the API does not know this key, or it was revoked",
            "compare the key with what the API's administration shows, and store it again: cursiva secret keep NAME") with
            {
                Statuses = [401],
                When = FixedKey,
                IsProof = true,
            },

        // codes and statuses
        Of("scope-missing-code", "the token lacks a scope that this path requires", "add {scope} to scope:, and have it granted") with
        {
            Statuses = s_who,
            Errors = ["insufficient_scope"],
            Never = FixedKey,
        },
        Of(
            "token-refused",
            "the API does not accept the token, even a fresh one: usually it was issued for another audience or scope",
            "compare scope: of the identity and base: of the API with the API's documentation; cursiva token read --job JOB shows what the token has") with { Statuses = [401] },
        Of(
            "payment-status",
            "the API account has not been paid for, or its credit is used up",
            "ask whoever pays for the API") with { Statuses = [402] },
        Of(
            "permission-missing",
            "the token is valid, but the application lacks a permission or role for this",
            "ask the administrator to grant the application the permission that this path requires") with { Statuses = [403] },
        Of(
            "path-unknown",
            "there is nothing at this address: the path is misspelt, or base: misses a part such as the version; some APIs also answer like this if a permission is missing",
            "compare get: and base: with the API's documentation") with { Statuses = [404] },
        Of(
            "method-not-allowed",
            "the path does not accept this method",
            "compare the method with the API's documentation: post: instead of get:, or the other way round") with { Statuses = [405] },
        Of(
            "not-acceptable",
            "the API cannot answer in the requested format",
            "set Accept under headers: of the API to what its description says") with { Statuses = [406] },
        Of(
            "proxy-wants-name-for-api",
            "a proxy in between requires a sign-in",
            "put a name and password into HTTPS_PROXY, or NO_PROXY for this host") with { Statuses = [407] },
        Of(
            "conflict",
            "the request conflicts with the current state of the resource",
            "read the API's own words above, and check the resource in the API") with { Statuses = [409, 412, 423, 428] },
        Of("cursor-expired", "the cursor or link has expired on the server", "start over with --new") with { Statuses = [410] },
        Of(
            "too-large",
            "the request is larger than the API accepts: its address, its headers or its body",
            "request less at once: fewer ids (batch: in per:), or a body instead of a long query") with { Statuses = [413, 414, 431] },
        Of(
            "media-type",
            "the API expects the body in another format",
            "set Content-Type under headers: of the API to what its description says") with { Statuses = [415] },
        Of(
            "wrong-protocol",
            "the API requires a newer protocol, usually https",
            "write https:// in base:, or try http: \"2\" of the API") with { Statuses = [426, 505] },
        Of(
            "limit-used-up",
            "the API's limit is used up, perhaps by another program with the same client",
            "declare the limit under limits: at-most:, or lower use:") with { Statuses = [429] },
        Of("legal", "the API may not provide this here, for legal reasons", "ask the operator of the API") with { Statuses = [451] },
        Of(
            "request-not-accepted",
            "the API did not accept the request",
            "read the API's own words above and correct the path or its parameters") with { Statuses = [400, 422] },
        Of(
            "not-offered",
            "the API does not offer this",
            "compare the path and the method with the API's documentation") with { Statuses = [501] },
        Of(
            "gateway-trouble",
            "a gateway in front of the API got no answer from it, through all retries",
            "run the same command later: it resumes from the last checkpoint; if it is always this request, request less at once") with
            {
                Statuses = [502, 504, 520, 521, 522, 523, 524],
            },
        Of(
            "api-in-trouble",
            "the API has a problem that outlasted all retries",
            "run the same command later: it resumes from the last checkpoint") with { Statuses = [500, 503, 507, 508, 529] },
        Of("api-refused", "the API refused the request", "read the API's own words above"),
        Of(
            "html-for-json",
            "a web page answered instead of the API: a login page, a proxy, or a wrong base:",
            "compare base: with the API's documentation") with { Trouble = Trouble.Html },
        Of(
            "page-not-understood",
            "the page does not match rows: and paging:",
            "fetch the page by hand once, and compare it with rows: and paging: of the pull") with { Trouble = Trouble.NotUnderstood },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.Api };
}
