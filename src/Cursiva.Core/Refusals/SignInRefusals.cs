using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What an authorization server says of the client, of the person, and of what was asked for.</summary>
internal static class SignInRefusals
{
    private const string SignInAgain = "sign in once more: cursiva sign-in JOB IDENTITY";


    private static readonly Saying s_secretWrong = new(
        "the secret is wrong",
        "(bad|invalid|wrong|incorrect|unknown|mismatched) ((<client> )?secret|<client> credentials?)( \\w+)?",
        "((<client> )?secret|<client> credentials?|password (of|for) the client|password part)( [^.]{0,30}?)? <wrong>",
        "app secret <wrong>")
    { Unless = new("of a person or of a missing one", "user ?(name )?(or|and|credentials?)", "user ?name", "this user", "user credentials", "login", "(missing|required)", "may not be used", "<ended>$") };

    private static readonly Saying s_credentialsWrong = new(
        "the credentials are wrong",
        "(bad|invalid|wrong|incorrect|unknown|mismatched) credentials?( \\w+)?",
        "credentials?( [^.]{0,30}?)? <wrong>")
    { Unless = s_secretWrong.Unless };

    private static readonly Saying s_secretExpired = new(
        "the secret has expired",
        "(secrets?|(<client> )?credentials?|(shared|client|api client) key( material)?|(application|app|client) password)~<ended>",
        "(expired|lapsed|outdated|stale) (<client> )?(secret|credentials?)")
    { Unless = new("of a note", "secrets expire") };

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        // what the answer says and this side shows
        Of(
            "white-space-in-secret",
            "the secret has white space or a line break, probably copied along",
            "store the secret again without it: cursiva secret keep NAME, or printf '%s' instead of echo") with { When = WhiteSpaceInSecret, Says = s_secretWrong },
        Of(
            "secret-id-for-value",
            "the secret looks like an id: most likely the secret's id was copied instead of its value",
            "ask for a new secret and copy its value, which most servers show only once") with { When = SecretLooksLikeId, Says = s_secretWrong },

        // who may come in at all
        Of(
            "consent-missing",
            "the application has not been granted what it requests: an administrator or the person has to approve it",
            "ask an administrator to approve the application's permissions; check --live --wait 15m waits until that takes effect") with
        {
            Says = new("an approval is missing", "consent(ed)?", "<admin>~<approve>", "(approv\\w*|authori[sz]ed|granted)( \\w+)? by~<admin>", "not been approved", "pending~(review|approval)", "has to (approve|agree)", "yet to (agree|approve|consent|accept|sign|confirm)\\w*", "sign(ed)? off", "(awaiting|awaits|waiting for|waits for)( \\w+){0,2} (<admin>|approval|review|consent)", "(permission|access|approval) request~(pending|awaiting|open|not decided)", "(not been|not) authori[sz]ed by the (user|owner|administrator)", "approval (is )?(required|needed|missing)") { Unless = new("of another thing", "terms of", "policy", "(consent|approval|access|grant)~(withdrawn|revoked|taken back|removed|withdrew)") },
        },
        Of("not-a-tester", "the application is in testing, and this person is not on its list of testers", "ask for the person to be added to the testers, or for the application to be published") with { Says = new("only testers are let in", "testers?", "test users?", "development mode", "in testing") },
        Of(
            "account-locked",
            "the account is locked after too many attempts, and every further attempt locks it longer",
            "wait as long as the answer says, or ask for the account to be unlocked; run nothing until then") with
        {
            Never = ApplicationAlone,
            Says = new("the account is locked", "(locked|blocked) (account|user|login)", "too many (tries|attempts|failures)", "<person>( account)?( (is|was|has been|been|currently|temporarily))* (locked|blocked|frozen)( out)?", "locked out", "(temporarily|currently) (locked|blocked)", "too many (failed|bad|wrong|unsuccessful|invalid)( \\w+)?", "too many (login |sign ?in )?attempts", "repeated~failures") { Unless = new("it is not locked yet", "attempts? (left|remaining)", "before~locked") },
        },
        Of(
            "password-expired",
            "the password has expired or has to be changed",
            "change the password, and store the new one: cursiva secret keep NAME; better, use a grant that needs no password") with
        {
            Never = ApplicationAlone,
            Says = new("the password has to be changed", "pass(word|phrase)( (has|is|was|must|needs to|be|to))* (expired|out of date|changed before|reset before|renewed)", "pass(word|phrase)~(expired|out of date|(has|have) to be (changed|renewed|reset)|must be (changed|reset|renewed))", "(change|update|renew|reset|set) (your |the |a )?(new )?pass(word|phrase)", "pass(word|phrase) (change|reset|update) (is )?(required|needed)", "temporary pass(word|phrase)~") { Unless = new("it was changed, or is the client's", "pass(word|phrase) (was|has been) (changed|reset)", "<client> password") },
        },
        Of(
            "second-factor",
            "the server requires a second factor, which nobody can provide at night",
            "use a grant that signs in once with a person (authorization_code, then cursiva sign-in JOB IDENTITY), or as the application itself (client_credentials)") with
        {
            Says = new(
                "a second factor is needed",
                "(multi|two) ?(factor|step)( \\w+)?",
                "multifactor",
                "second factor",
                "mfa( \\w+)?",
                "2fa",
                "one time (code|password|passcode)",
                "otp",
                "verification code",
                "authenticator( app)?",
                "(push|prompt) on your (phone|device)",
                "security key",
                "passkey"),
        },
        Of(
            "interaction-wanted",
            "a person has to do something in a browser: sign in again, or accept new terms",
            SignInAgain) with
        {
            Says = new(
                "a person has to sign in",
                "(single sign on|sso|browser)( session)?",
                "sign in (again|interactively)",
                "(user|person) (has|needs|must|is required) (to )?(sign|log) in again",
                "log in again",
                "(person|user) has to be present",
                "terms (of|and)",
                "(new|updated|changed) terms",
                "terms~(accept(ed)?|agreed?)",
                "interactive(ly)? (login|sign in|authentication)?"),
        },
        Of("account-disabled", "the account is disabled or deleted", "ask for the account to be enabled again, or sign in with another one") with
        {
            Never = ApplicationAlone,
            Says = new(
                "the account is disabled",
                "(user|account|person|login|owner)( account)?( (is|was|has been|been))* (disabled|deactivated|inactive|closed|deleted|terminated|archived|suspended|switched off|turned off|paused|retired|not active|no longer active)",
                "(user|account)( account)? no longer exists",
                "(disabled|inactive|deactivated) (user|account)",
                "(user|person|employee) (has )?left"),
        },
        Of(
            "address-not-allowed",
            "the server accepts only certain networks, and this machine's is not among them",
            "ask the administrator to allow this machine's outgoing address") with { Says = AccessRefusals.Address },
        Of("licence-missing-at-sign-in", "the plan or licence does not include API access", "ask the administrator for a plan that includes API access") with { Says = new("a licence or plan is missing", "licen[cs]ed?", "(your|the|this) (plan|edition|tier)", "subscription~(<ended>|required|inactive|missing)", "part of your plan", "upgrade~(plan|edition)", "trial~<ended>"), Statuses = [400, 401, 402, 403] },
        Of(
            "person-wanted",
            "the server grants this only to people, and an application asked",
            "use a grant with a person behind it: authorization_code, then cursiva sign-in JOB IDENTITY") with
        {
            Says = new(
                "only persons may have it",
                "signed in (person|user)",
                "(user|person|human)s? must (sign|log) in",
                "service (login|account)s?~<refused>",
                "(only|just) (for |to )?(users|persons|people|humans)",
                "(users|persons|people|humans) only",
                "user (login|context|account) (is )?(required|needed)") { Unless = new("of a grant", "(grant|flow)~<refused>") },
        },

        // how the client proves itself
        Of("client-auth-wanted", "the server expects another client authentication", "set client-auth: {method}") with
        {
            Says = new(
                "another client authentication is wanted",
                "(put|send|place|pass|expects?|must contain|contain)~(client )?(assertion|secret)~(body|header|form|query)",
                "(body|form) must contain~(assertion|secret)",
                "(secret|credentials?)~must be sent (as|in)( \\w+){0,3}",
                "must be sent~(form|body|header)",
                "(use|with|must|required?|expects?|only|by|supports)~(client secret (post|basic|jwt)|private key jwt|tls client auth)",
                "(client secret (basic|post|jwt)|private key jwt)~(<refused>|required|is needed)",
                "(secret|credentials?)~(query|body|form|url|header)~<refused>",
                "more than one( \\w+){0,3} (methods?|mechanisms?|ways?)",
                "(multiple|several|two)( \\w+){0,3} (methods?|mechanisms?)",
                "use( http)? basic",
                "(configured|registered|set up|enabled) for (client secret|private key jwt|tls client auth)( \\w+)?",
                "auth(entication)? method~(<refused>|mismatch|not registered)",
                "(one|single) (authentication |auth )?(method|mechanism)",
                "credentials~(in|to be sent in|must be sent in|by)~(header|body|form)",
                "(put|send|place) client id and (client )?secret in~",
                "client assertion (is )?(required|missing|needed)",
                "(only|requires?|expects?|supports|must use)~basic( auth\\w*)?",
                "basic auth\\w* (is )?(required|expected|needed)",
                "client secret (is |was )?(missing|required|needed|not sent|absent)",
                "client (must|has to) authenticate (with|by|using)",
                "secret may not be used",
                "sign a (jwt|token) instead",
                "secret~not (allowed|permitted|supported)"),
        },
        Of(
            "secret-expired",
            "the client secret has expired",
            "ask for a new secret and store it: cursiva secret keep NAME; while both are valid, secret: can list both, the new one first") with { Says = s_secretExpired, Never = Asserting },
        Of(
            "secret-wrong",
            "the client is known, and the secret is wrong",
            "compare the secret's value with what the administrator gave") with { Says = s_secretWrong, Never = Asserting },
        Of("secret-wrong-words", "the client is known, and the secret is wrong", "compare the secret's value with what the administrator gave") with { Says = s_credentialsWrong, Never = Asserting | PasswordSent },
        Of("client-disabled", "the application is disabled at the server", "ask the administrator to enable the application again") with
        {
            Says = new(
                "the application is disabled",
                "(<client>( user| registration)?|registration)( (is|was|has been|been|temporarily|put|currently))* <off>",
                "(disabled|inactive|suspended|blocked) <client>"),
        },
        Of(
            "client-unknown",
            "the authorization server knows no client with this id",
            "compare client-id with what the administrator gave, and the server's address with where the client was registered") with
        {
            Says = new("no client has this id", "<client>( id| identifier)?( [^.]{0,40}?)? ?<unknown>", "(no such|unknown|unrecogni[sz]ed|no registered|no|unregistered) <client>( (id|with|by|of|named))?", "(invalid|wrong|bad) <client> (id|identifier)", "no registration( (on|found|for|with|of)( \\w+)?)?", "(lookup|search)~<client>~(nothing|empty|no result)", "<client>~(lookup|search)~(nothing|empty|no result)", "(have|has|know|knows|see|hold|holds) no <client>( \\w+){0,3}", "<client>~(does|do|did) not (belong|live)( \\w+)? (to|in)", "(could|can|unable)( not)?( to)? (find|locate)( an?| the)? <client>", "<client> (id|identifier) . no match", "<client> (id|identifier) no match") { Unless = new("of another thing", "machine to machine", "certificate", "key", "jwks", "kid", "consent", "scope", "grant type", "assertion", "secret", "credentials?") },
        },
        Of(
            "tenant-unknown",
            "the server knows no such tenant, realm or organisation: perhaps the address of another environment",
            "compare the server's address in the job with what the administrator gave") with
        {
            Says = new("the tenant is unknown", "(there is )?no <tenant>( \\w+){0,2}", "<tenant>( name)?~(<unknown>|not one of)", "(no such|unknown|invalid|wrong) <tenant>", "check your (tenant|realm|organi[sz]ation)( name)?", "(belongs|registered) (to|in) (another|a different|other) <tenant>", "(exists|registered)~(in|on) (production|live|another|test|the sandbox)", "this is the (sandbox|test|staging)( \\w+)?") { Unless = new("of the resource or of a location", "resource principal", "from outside") },
        },

        // what was asked for
        Of(
            "grant-not-allowed",
            "this client may not use this grant",
            "ask the administrator to allow the grant for the client, or choose another grant:") with
        {
            Says = new("the grant is not allowed", "(grant|grants|grant type|flow|client credentials|authorization code|device code)~<refused>", "(may|can) not use~(grant|flow)", "not (allowed|authori[sz]ed|permitted) to use~(grant|flow)", "machine to machine( \\w+)?") { Unless = new("of a code, a consent or a token", "code (challenge|verifier)", "review", "cancelled", "withdr\\w+") },
        },
        Of("grant-unknown", "the server does not offer this grant", "compare grant: with grant_types_supported of the server's metadata; the spelling is that of the standards") with { Says = new("the grant is not supported", "unsupported grant( type)?", "grant( type)? (is )?(not supported|unsupported|unknown|invalid)", "unknown grant( type)?") },
        Of("scope-wanted", "the server requires a scope, and none was requested", "add the scope: that the API's documentation names") with { Never = FixedKey, Says = new("a scope is missing", "scopes? (is |are |was )?(required|missing|needed|mandatory|empty|not given)", "(missing|specify|without|empty|no)( \\w+){0,3} scopes?", "at least one scope", "(ask|asked) for~scope") { Unless = new("one was asked for", "no such scopes?") } },
        Of("scope-unknown", "a scope is misspelt or not granted to this client", "compare scope: with the scopes that the administrator granted") with { Never = FixedKey, Says = new("a scope is unknown or not allowed", "no such scopes?", "scopes? (does|do) not exist", "scopes?~can not be (requested|asked for|used)", "scopes?~<unknown>", "(value|name)~scope~not valid", "scopes?~(invalid|unknown|malformed|not (known|recogni[sz]ed|allowed|valid|registered|supported|permitted|granted|found|assigned))", "(unknown|unsupported|unrecogni[sz]ed|illegal|disallowed) scopes?", "not (entitled|allowed|permitted|authori[sz]ed)( \\w+){0,3} scopes?") },
        Of("target-wanted", "the server has to be told which API the token is for", "add audience or resource under token-parameters:, as the API's documentation names it") with { Never = FixedKey | Asserting, Says = new("the audience or resource is missing", "(audience|resource)( parameter)? (is |was |has to be |must be )?(missing|required|given|specified|needed|mandatory|empty|provided)", "(missing|specify|without|name|tell us)~(audience|resource)") },
        Of("target-unknown", "the server does not know the requested audience or resource", "compare audience or resource under token-parameters:, and scope:, with the API's documentation") with { Never = FixedKey | Asserting, Says = new("the audience or resource is unknown", "(audience|resource|resource principal|resource server|service|target)( [^.]{0,50}?)?( (is|was))? (<unknown>|not (allowed|permitted|valid)|invalid)", "(unknown|invalid|unrecogni[sz]ed) (audience|resource|target)", "(find|locate)( an?| the)? (api|resource|service|audience)( \\w+)*") },
        Of("redirect-mismatch", "the redirect URI differs from those that are registered for the client", "register exactly this address, or set redirect-uri: to a registered one") with { Says = new("the redirect address is not the registered one", "redirect(ion)? (uri|url|address)", "callback (uri|url|address)") },
        Of("code-challenge", "the proof key of the sign-in (PKCE, RFC 7636) is missing or does not belong to the code", "sign in again from the beginning, in one go, and use the newest answer") with { Says = new("the proof key does not fit", "code (challenge|verifier)", "pkce") },
        Of("wants-form", "the token endpoint takes its parameters as a form", "remove token-body:, or set token-body: form") with { Statuses = [400, 406, 415], Says = new("a form is wanted", "(must be|send|expected|expects?|use|as|requires?)~(form urlencoded|x www form)") },
        Of("wants-json", "the token endpoint takes its parameters as JSON", "set token-body: json") with { Statuses = [400, 406, 415], Says = new("JSON is wanted", "(must be|send|expected|expects?|use|as|requires?|only)~json", "form urlencoded~<refused>") },
        Of("too-many-sign-ins", "too many requests to the authorization server", "run fewer jobs at once; the token cache lets runs of one identity share a token") with { Says = new("it was asked too often", "too many( \\w+){0,2} requests", "rate limit(ed)?( exceeded)?", "slow down", "throttled") },
        Of("parameter-missing-words", "the request lacks a parameter that the authorization server requires", "compare the request (token get --trace) with the documentation of the token endpoint, and add what is missing under token-parameters:") with { Says = new("a parameter is missing", "(missing|lacks|required)~(parameter|grant type)", "(parameter|grant type)~(missing|required)") },
        Of("person-refused", "the person's name or password is wrong, or the account may not sign in this way", "check username: and store the password again; better, use a grant that needs no password") with { When = PasswordSent, Says = new("name or password are wrong", "wrong (user ?name|login)", "(user ?name|login|user|pass(word|phrase)|credentials?|authentication)~(<wrong>|wrong|invalid|incorrect|bad|failed)", "(wrong|invalid|incorrect|bad)~(user|login|pass(word|phrase)|credentials?)", "not recogni[sz]e~(user|login|pass(word|phrase))") },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.SignIn };
}
