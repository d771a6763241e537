using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What a refusal of an API usually means where the answer does not say more than a code or a status.</summary>
internal static class ApiUsual
{
    private static readonly int[] s_who = [401, 403];

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        // what this side knows
        Of("token-missing", "the API wants a token, and none was sent", "name an identity: for the API") with { Statuses = [401, 403], When = Anonymous, IsProof = true },
        Of("scheme-wanted-by-challenge", "the API expects another scheme than the one that was sent", "set scheme: {scheme} of the identity as the API's description says; for a name and password or a key, grant: header") with { Statuses = [401], When = OtherScheme, Never = Anonymous, IsProof = true },
        Of("wrong-audience", "the token is good, but it was issued for another audience than this API", "ask for the right one: scope:, or audience or resource under token-parameters:, as the API's description says") with { Statuses = s_who, When = OtherAudience, IsProof = true },
        Of("permission-missing-in-token", "the token lacks something that permissions: names", "ask the administrator to grant it; cursiva token read --job JOB shows what the token has") with { Statuses = s_who, When = PermissionMissing, IsProof = true },
        Of("key-refused", "the API does not know this key, or the key was taken back", "compare the key with what the API's administration shows, and keep it again: cursiva secret keep NAME") with { Statuses = [401], When = FixedKey, IsProof = true },

        // codes and statuses
        Of("scope-missing-code", "the token lacks a scope that this path needs", "add {scope} to scope:, and have it granted") with { Statuses = s_who, Errors = ["insufficient_scope"], Never = FixedKey },
        Of(
            "token-refused",
            "the API does not accept the token, even a fresh one: most often it was issued for another audience or scope",
            "compare scope: of the identity and base: of the API with the API's description; cursiva token read --job JOB shows what the token has") with { Statuses = [401] },
        Of(
            "payment-status",
            "the account behind the API has not been paid, or its credit is used up",
            "ask whoever pays for the API") with { Statuses = [402] },
        Of(
            "permission-missing",
            "the token is good, but the application lacks a permission or role for this",
            "ask the administrator to grant the application the permission that this path needs") with { Statuses = [403] },
        Of(
            "path-unknown",
            "there is nothing at this address: the path is misspelt, or base: misses a part such as the version; some APIs answer so where a permission is missing",
            "compare get: and base: with the API's description") with { Statuses = [404] },
        Of(
            "method-not-allowed",
            "the path does not take this method",
            "compare the method with the API's description: post: in place of get:, or the other way round") with { Statuses = [405] },
        Of(
            "not-acceptable",
            "the API cannot answer in the form that was asked for",
            "set Accept under headers: of the API to what its description says") with { Statuses = [406] },
        Of(
            "proxy-wants-name-for-api",
            "a proxy in between wants to know who asks",
            "set HTTPS_PROXY with a name and password, or NO_PROXY for this host") with { Statuses = [407] },
        Of(
            "conflict",
            "the API finds that the request does not fit the state of what it is about",
            "read the API's own words above, and look at it in the API") with { Statuses = [409, 412, 423, 428] },
        Of("cursor-expired", "the cursor or link has expired on the server", "start over with --new") with { Statuses = [410] },
        Of(
            "too-large",
            "the request is larger than the API takes: its address, its headers or its body",
            "ask for less at once: fewer ids (batch: in per:), or a body in place of a long query") with { Statuses = [413, 414, 431] },
        Of(
            "media-type",
            "the API takes the body in another form",
            "set Content-Type under headers: of the API to what its description says") with { Statuses = [415] },
        Of(
            "wrong-protocol",
            "the API wants a newer protocol, usually https",
            "write https:// in base:, or try http: \"2\" of the API") with { Statuses = [426, 505] },
        Of(
            "limit-used-up",
            "the API's limit is used up, perhaps by another program with the same client",
            "declare the limit under limits: at-most:, or lower use:") with { Statuses = [429] },
        Of("legal", "the API may not give this out here, for legal reasons", "ask the operator of the API") with { Statuses = [451] },
        Of(
            "request-not-accepted",
            "the API did not accept the request as it was sent",
            "read the API's own words above and correct the path or its parameters") with { Statuses = [400, 422] },
        Of(
            "not-offered",
            "the API does not offer this",
            "compare the path and the method with the API's description") with { Statuses = [501] },
        Of(
            "gateway-trouble",
            "a gateway in front of the API got no answer from it, and this stayed so through all retries",
            "run the same command later: it resumes from the last checkpoint; where it is always this request, ask for less at once") with { Statuses = [502, 504, 520, 521, 522, 523, 524] },
        Of(
            "api-in-trouble",
            "the API is in trouble and stayed so through all retries",
            "run the same command later: it resumes from the last checkpoint") with { Statuses = [500, 503, 507, 508, 529] },
        Of("api-refused", "the API refused the request", "read the API's own words above"),
        Of(
            "html-for-json",
            "a web page answered where the API should: a login page, a proxy, or a wrong base:",
            "compare base: with the API's description") with { Trouble = Trouble.Html },
        Of(
            "page-not-understood",
            "the page is not what rows: and paging: expect",
            "fetch the page once by hand and compare it with rows: and paging: of the pull") with { Trouble = Trouble.NotUnderstood },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.Api };
}
