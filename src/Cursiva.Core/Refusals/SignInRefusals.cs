using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What refusals of the authorization server mean.</summary>
internal static class SignInRefusals
{
    private static readonly string[] s_client = ["invalid_client", "unauthorized_client"];
    private static readonly string[] s_grant = ["invalid_grant"];
    private static readonly string[] s_expired = ["expired"];

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        // what is wrong on our side, and can be seen here
        Of("white-space-in-id", "white space in the client id, as copying leaves it", "remove it from client-id:") with { When = WhiteSpaceInId },
        Of("white-space-in-secret", "white space or a line break in the secret, as copying leaves it", "keep the secret again without it: cursiva secret keep, or printf '%s' instead of echo") with { When = WhiteSpaceInSecret, Errors = s_client },
        Of("secret-id-for-value", "the secret has the form of an id: most likely the secret's id was copied in place of its value", "have a new secret made and copy its value, which most servers show only once") with { When = SecretLooksLikeId, Errors = s_client },
        Of("certificate-not-valid", "the certificate's validity is over or has not begun", "make a new one with cursiva cert create, and have its public half registered") with { When = CertificateNotValid },
        Of("clocks-differ", "this machine's clock and the server's differ, so that assertions seem to be from the past or the future", "set this machine's clock: timedatectl set-ntp true") with { When = ClocksDiffer | Asserting },

        // the client and its proof
        Of("secret-expired", "the client secret has expired", "have a new secret made, keep it with cursiva secret keep, and list it first under secret: while both are good") with { Errors = s_client, Words = ["secret+expired"] },
        Of("secret-wrong", "the client is known, and the secret is wrong", "compare the secret's value with what the administrator gave; the id of a secret is not its value") with { Errors = s_client, Words = ["secret"] },
        Of("client-unknown", "the authorization server knows no client with this id", "compare client-id with what the administrator gave, and the server's address with where the client was registered") with { Errors = s_client, Words = ["no such client", "unknown client", "client not found", "client is unknown", "not found in the directory"] },
        Of("certificate-not-registered", "the certificate or key that signed the assertion is not registered for the client", "give the administrator the public half (cursiva cert show) and compare the thumbprints") with { Errors = s_client, Words = ["certificate", "thumbprint", "key+registered", "no matching key", "signature"] },
        Of("assertion-audience", "the assertion names another audience than the server expects", "set assertion: audience: to what the server's description says: its token endpoint or its issuer") with { Words = ["assertion+audience", "assertion+aud ", "aud claim", "\"aud\""], When = Asserting },
        Of("assertion-replayed", "the server has seen this assertion before", "run again: every assertion has an id of its own; if it stays so, a proxy in between sends requests twice") with { Words = ["jti", "replay", "already been used", "already used"], When = Asserting },
        Of("assertion-time", "the server finds the assertion too old, too young or too long-lived", "compare this machine's clock with the server's, and lower assertion: lifetime:") with { Words = ["assertion+expired", "exp ", "iat", "nbf", "clock", "not yet valid", "in the past"], When = Asserting },
        Of("client-refused-key", "the authorization server does not know this client, or the key that signed for it", "compare client-id, and the thumbprints that cursiva cert show tells, with what is registered") with { Statuses = [400, 401], Errors = ["invalid_client"], When = Asserting },
        Of("client-refused", "the authorization server does not know this client, or the secret is wrong or has expired", "compare client-id and the secret's value with what the administrator gave; the id of a secret is not its value") with { Statuses = [400, 401], Errors = ["invalid_client"] },

        // what was asked for
        Of("grant-not-allowed", "this client may not use this grant", "ask the administrator to allow the grant for the client, or choose another grant:") with { Errors = ["unauthorized_client"] },
        Of("grant-unknown", "the server does not offer this grant", "compare grant: with grant_types_supported of the server's metadata; the spelling is that of the standards") with { Errors = ["unsupported_grant_type"] },
        Of("consent-missing", "nobody has consented yet to what the application asks for, or an administrator's approval is missing", "have the administrator approve the application's permissions; check --live --wait 15m tells when it has spread") with { Errors = ["consent_required", "interaction_required"] },
        Of("consent-missing-words", "nobody has consented yet to what the application asks for, or an administrator's approval is missing", "have the administrator approve the application's permissions; check --live --wait 15m tells when it has spread") with { Words = ["consent", "admin approval", "administrator's approval", "has not approved"] },
        Of("not-a-tester", "the application is being tested, and this person is not on its list", "have the person added to the testers, or the application published") with { Words = ["tester", "test user", "testing"] },
        Of("scope-unknown", "a scope is misspelt or is not granted to this client", "compare scope: with the scopes that the administrator granted") with { Errors = ["invalid_scope"] },
        Of("target-unknown", "the audience or resource that was asked for is not known to the server", "compare audience or resource under token-parameters: with the API's description") with { Errors = ["invalid_target"] },
        Of("redirect-mismatch", "the redirect URI differs from those that are registered for the client", "register exactly this address, or set redirect-uri: to one that is registered") with { Words = ["redirect_uri", "redirect uri", "redirection"] },
        Of("parameter-missing", "the authorization server misses a parameter, or expects the client to authenticate in another way", "try the other client-auth:, and compare with the server's description of its token endpoint") with { Errors = ["invalid_request"] },
        Of("wants-json", "the token endpoint takes its parameters in another form", "set token-body: json, or form") with { Statuses = [415] },
        Of("access-denied", "the person, or a rule of the organisation, refused", "sign in again and accept, or ask the administrator which rule it is") with { Errors = ["access_denied"] },

        // refresh tokens, codes
        Of("refresh-cut-short", "an earlier process ended between sending the refresh token and keeping its successor, and the server has made the whole family invalid since", "sign in once more: cursiva sign-in JOB IDENTITY") with { Errors = s_grant, When = Refreshing | CutShort },
        Of("refresh-expired", "the refresh token has expired: it was not used for too long, or its whole time is over", "sign in once more: cursiva sign-in JOB IDENTITY; a schedule that runs more often keeps it fresh") with { Errors = s_grant, Words = s_expired, When = Refreshing },
        Of("refresh-used", "the refresh token was used already: another program or another machine uses the same one", "let one program have it: sign in once more with cursiva sign-in JOB IDENTITY, and give the other program its own") with { Errors = s_grant, Words = ["used", "reuse", "rotated"], When = Refreshing },
        Of("refresh-revoked", "the refresh token was taken back: by the person, a changed password, or the administrator", "sign in once more: cursiva sign-in JOB IDENTITY") with { Errors = s_grant, Words = ["revoked", "withdrawn"], When = Refreshing },
        Of("refresh-refused", "the refresh token is no longer good: it has expired, was taken back, or was used by another program", "sign in once more: cursiva sign-in JOB IDENTITY") with { Errors = s_grant, When = Refreshing },
        Of("code-expired", "the authorization code has expired", "sign in again, and paste the answer within a minute") with { Errors = s_grant, Words = s_expired, When = Redeeming },
        Of("code-used", "the authorization code was used already", "sign in again: a code is good for one use") with { Errors = s_grant, Words = ["used", "redeemed"], When = Redeeming },
        Of("code-refused", "the authorization code is not good: expired, used already, or from another sign-in", "sign in again, and use the newest answer") with { Errors = s_grant, When = Redeeming },
        Of("device-expired", "nobody confirmed in time", "run the command again, and confirm within the time it names") with { Errors = ["expired_token"] },
        Of("assertion-refused", "the server does not accept the assertion: its key, its subject or its times", "compare assertion: and key: with what was registered") with { Errors = s_grant, When = Asserting },
        Of("person-refused", "the person's name or password is wrong, or the account may not sign in this way", "compare username: and keep the password again; better, use a grant that needs no password") with { Errors = s_grant },
        Of("address-not-allowed", "the server lets in only certain addresses, and this machine's is not among them", "ask the administrator to allow this machine's outgoing address") with { Words = ["ip address", "ip not allowed", "network location", "not allowed from"] },

        // the address
        Of("not-a-token-endpoint", "this address is not a token endpoint", "compare token-endpoint: with the server's published metadata") with { Statuses = [404, 405] },
        Of("old-endpoint", "this version of the endpoint is no longer served", "take the newer address from the server's published metadata") with { Statuses = [410] },
        Of("proxy-wants-name", "a proxy in between wants to know who asks", "set HTTPS_PROXY with a name and password, or NO_PROXY for this host") with { Statuses = [407] },
        Of("server-in-trouble", "the authorization server is in trouble", "try again later; nothing is lost, the next run goes on") with { Statuses = [500, 502, 503, 504] },
        Of("too-many-sign-ins", "the authorization server was asked too often", "run fewer jobs at once; the token cache lets runs of one identity share a token") with { Statuses = [429] },
        Of("sign-in-refused", "the authorization server refused the sign-in", "read its own words above and compare the identity with what the administrator gave"),
        Of("html-for-token", "a web page answered where a token endpoint should: a login page, a proxy, or a wrong address", "compare token-endpoint: with the server's published metadata") with { Trouble = Trouble.Html },
        Of("answer-not-understood", "the answer is not the JSON that RFC 6749 section 5.1 describes", "compare token-endpoint: with the server's published metadata; if the token stands elsewhere in the answer, set token-at:") with { Trouble = Trouble.NotUnderstood },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.SignIn };
}
