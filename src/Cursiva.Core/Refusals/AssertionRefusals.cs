using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What it means when a signed assertion (RFC 7523) is refused.</summary>
internal static class AssertionRefusals
{
    private const string ClocksCause = "this machine's clock and the server's differ, so assertions seem to be from the past or the future";
    private const string SetClock = "set this machine's clock: timedatectl set-ntp true";
    private const string NewCertificate = "make a new one with cursiva cert create, and register its public half";

    private static readonly Saying s_time = new(
        "the assertion is too old or from the future",
        "(assertion|jwt|token)~(<ended>|not yet valid|future|past)",
        "(iat|nbf|exp)",
        "clocks?( skew)?",
        "time ?frame",
        "(not (within|inside)|outside)~(time|range|window|period)",
        "issued in the (future|past)",
        "(outside|validity)~(window|period|time)");
    private static readonly Saying s_certificateEnded = new(
        "the certificate is not valid",
        "certificate~(<ended>|not yet valid)",
        "expired certificate");

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        Of("clocks-differ-said", ClocksCause, SetClock) with { When = ClocksDiffer | Asserting, Says = s_time },
        Of(
            "algorithm",
            "the server does not accept the algorithm that signed the assertion",
            "set algorithm: {algorithm} in assertion:, with a key of that kind") with
            {
                Says = new("another algorithm is wanted", "algorithms?", "alg", "(rs|ps|es|hs)(256|384|512)"),
            },
        Of(
            "key-id",
            "the server has to be told which key signed the assertion, or does not know the one it was told",
            "set key-id: in private-key: to the id that the server gave the key; with a certificate its thumbprints are sent as well") with { Says = new("the key id is missing or unknown", "kid", "key id(entifier)?s?") { Unless = new("of the signature", "kid less", "without kid") } },
        Of(
            "certificate-ended",
            "the certificate registered with the server has expired or is not valid yet",
            NewCertificate) with { Says = s_certificateEnded },
        Of(
            "assertion-lifetime",
            "the assertion is valid for longer than the server allows",
            "lower assertion: lifetime: to what the answer allows, for example 1m") with
            {
                Says = new(
                    "the assertion lives too long",
                    "(lifetime|lives?|living|valid(ity)?|period|duration|between iat and exp)~(exceeds?|too long|no more than|not be more than|at most|longer than|maximum|more than|too large)",
                    "exp~(too far|too long)",
                    "(exceeds|longer than)~lifetime"),
            },
        Of(
            "assertion-audience",
            "the assertion names another audience than the server expects",
            "set assertion: audience: to what the server's documentation says: its token endpoint or its issuer") with
            {
                Says = new("the audience is wrong", "aud(ience)?s?", "not (intended|meant|issued) for"),
            },
        Of(
            "assertion-replayed",
            "the server has seen this assertion before",
            "run again: every assertion has its own id; if it happens again, a proxy in between repeats requests") with
            {
                Says = new(
                    "it was seen before",
                    "(been )?used before",
                    "jti",
                    "replay(ed)?",
                    "already (been )?(used|seen)",
                    "seen before",
                    "duplicate( \\w+)?",
                    "not unique"),
            },
        Of(
            "assertion-time",
            "the server considers the assertion too old or from the future",
            "compare this machine's clock with the server's (timedatectl), and run again") with { Says = s_time },
        Of(
            "key-not-registered",
            "the certificate or key that signed the assertion is not registered for the client",
            "give the administrator the public half (cursiva cert show FILE) and compare the thumbprints") with
            {
                Says = new(
                    "the key is not registered",
                    "no( \\w+){0,2} keys?( \\w+)?",
                    "published no( \\w+)? keys?",
                    "(find|found|locate|locating)( an?| any| the)?( matching| suitable| right)? (keys?|certificates?)( \\w+)?",
                    "(invalid|bad|wrong)( \\w+){0,2} signature",
                    "(certificate|key|keys|thumbprint|jwks?)~(<unknown>|not among|no match)",
                    "(unknown|unrecogni[sz]ed|untrusted)( \\w+)? (certificate|key)",
                    "no( \\w+){0,2} (key|certificate|jwks?)( \\w+)?",
                    "signature~(<wrong>|could not|can not|verification)",
                    "(invalid|bad|wrong)( \\w+)? signature",
                    "verification failed",
                    "no (jwk|key)s? match(es)?( \\w+)?"),
            },
        Of(
            "assertion-subject",
            "the assertion names an issuer or subject that the server does not expect",
            "set issuer: and subject: in assertion: as the server's documentation says; for client authentication both are the client id") with { Says = new("issuer or subject are wrong", "sub|subject|iss|issuer") },
        Of("clocks-differ", ClocksCause, SetClock) with
        {
            When = ClocksDiffer | Asserting,
            IsProof = true,
            Errors = ["invalid_client", "invalid_grant", "invalid_request"],
        },
        Of(
            "client-refused-key",
            "the authorization server does not know this client, or the key that signed the assertion",
            "compare client-id, and the thumbprints shown by cursiva cert show FILE, with what is registered") with
            {
                Statuses = [400, 401],
                Errors = ["invalid_client"],
            },
        Of(
            "assertion-refused",
            "the server does not accept the assertion: its key, its subject or its times",
            "compare assertion: and private-key: with what was registered") with { Errors = ["invalid_grant"] },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.SignIn, When = Asserting };
}
