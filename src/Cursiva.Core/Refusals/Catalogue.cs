namespace Cursiva.Core.Refusals;

/// <summary>What refusals mean and what to do next: data, so that a new insight is a new line.</summary>
public static class Catalogue
{
    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        new(Desk.SignIn, Trouble.Status, [400, 401], ["invalid_client"],
            "the authorization server does not know this client, or the secret is wrong or has expired",
            "compare client-id and the secret's value with what the administrator gave; the id of a secret is not its value"),
        new(Desk.SignIn, Trouble.Status, [], ["invalid_scope"],
            "a scope is misspelt or is not granted to this client",
            "compare scope: with the scopes that the administrator granted"),
        new(Desk.SignIn, Trouble.Status, [], ["unauthorized_client", "unsupported_grant_type"],
            "this client may not use this grant",
            "ask the administrator to allow the grant for the client, or choose another grant:"),
        new(Desk.SignIn, Trouble.Status, [], ["invalid_request"],
            "the authorization server misses a parameter, or expects the client to authenticate in another way",
            "try the other client-auth:, and compare with the server's description of its token endpoint"),
        new(Desk.SignIn, Trouble.Status, [404, 405], [],
            "this address is not a token endpoint",
            "compare token-endpoint: with the server's published metadata"),
        new(Desk.SignIn, Trouble.Status, [500, 502, 503, 504], [],
            "the authorization server is in trouble",
            "try again later; nothing is lost, the next run goes on"),
        new(Desk.SignIn, Trouble.Status, [], [],
            "the authorization server refused the sign-in",
            "read its own words above and compare the identity with what the administrator gave"),
        new(Desk.Api, Trouble.Status, [401], [],
            "the API does not accept the token, even a fresh one: most often it was issued for another audience or scope",
            "compare scope: of the identity and base: of the API with the API's description"),
        new(Desk.Api, Trouble.Status, [403], [],
            "the token is good, but the application lacks a permission or role for this",
            "ask the administrator to grant the application the permission that this path needs"),
        new(Desk.Api, Trouble.Status, [404], [],
            "there is nothing at this address: the path is misspelt, or base: misses a part such as the version",
            "compare get: and base: with the API's description"),
        new(Desk.Api, Trouble.Status, [410], [],
            "the cursor or link has expired on the server",
            "start afresh with --new"),
        new(Desk.Api, Trouble.Status, [429], [],
            "the API's limit is used up, perhaps by another program with the same client",
            "declare the limit under limits: at-most:, or lower use:"),
        new(Desk.Api, Trouble.Status, [400, 422], [],
            "the API did not accept the request as it was sent",
            "read the API's own words above and correct the path or its parameters"),
        new(Desk.Api, Trouble.Status, [500, 502, 503, 504], [],
            "the API is in trouble and stayed so through all retries",
            "run the same command later: it goes on from the last checkpoint"),
        new(Desk.Api, Trouble.Status, [], [],
            "the API refused the request",
            "read the API's own words above"),
        new(null, Trouble.Unreachable, [], [],
            "the host name, the port or the network is wrong, or a firewall is in between",
            "try the address with another program from this machine"),
        new(null, Trouble.Tls, [], [],
            "the server's certificate is not trusted on this machine, or the address speaks another protocol",
            "check the address, and that the certificate's issuer is trusted here"),
        new(null, Trouble.Silent, [], [],
            "the server took longer than timeout: allows",
            "run again later, or raise timeout:"),
        new(null, Trouble.CutOff, [], [],
            "the connection broke before the answer was whole",
            "run the same command again: it goes on from the last checkpoint"),
        new(Desk.SignIn, Trouble.Html, [], [],
            "a web page answered where a token endpoint should: a login page, a proxy, or a wrong address",
            "compare token-endpoint: with the server's published metadata"),
        new(Desk.Api, Trouble.Html, [], [],
            "a web page answered where the API should: a login page, a proxy, or a wrong base:",
            "compare base: with the API's description"),
        new(Desk.SignIn, Trouble.NotUnderstood, [], [],
            "the answer is not the JSON that RFC 6749 section 5.1 describes",
            "compare token-endpoint: with the server's published metadata"),
        new(Desk.Api, Trouble.NotUnderstood, [], [],
            "the page is not what rows: and paging: expect",
            "fetch the page once by hand and compare it with rows: and paging: of the pull"),
        new(null, Trouble.Redirect, [], [],
            "the server points to another address; credentials are never carried there",
            "put the address it points to into the job file, if it is the right one"),
    ];

    /// <summary>The entries that fit, the closest first.</summary>
    public static IReadOnlyList<Diagnosis> Explain(Facts facts) =>
    [
        .. Entries
            .Select((entry, place) => (entry, place, fit: entry.Fit(facts)))
            .Where(candidate => candidate.fit is not null)
            .OrderByDescending(candidate => candidate.fit)
            .ThenBy(candidate => candidate.place)
            .Select(candidate => candidate.entry),
    ];

    /// <summary>A refusal with the closest diagnosis.</summary>
    public static Refusal Refuse(Facts facts, string what, string? quote = null, string? request = null)
    {
        var diagnosis = Explain(facts) is [var closest, ..] ? closest : null;
        return new Refusal(facts.Desk == Desk.SignIn ? Outcome.SignInRefused : Outcome.ApiFailed, what)
        {
            Cause = diagnosis?.Cause,
            NextStep = diagnosis?.NextStep,
            Quote = quote,
            Request = request,
        };
    }
}
