using static Cursiva.Core.Refusals.Circumstances;

namespace Cursiva.Core.Refusals;

/// <summary>What an API says when it refuses.</summary>
internal static class ApiRefusals
{
    private const string AskRightOne = "request the right one: scope:, or audience or resource under token-parameters:, as the API's documentation says";
    private const string OtherAudienceCause = "the token is valid, but it was issued for another audience than this API";

    private static readonly int[] s_who = [401, 403];
    private static readonly int[] s_refused = [400, 401, 403, 404];
    private static readonly int[] s_limited = [400, 403, 429, 503];

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        // limits
        Of(
            "quota-used-up",
            "the quota of a day or a month is used up, perhaps by another program with the same client",
            "run again when the quota is renewed, and declare it under limits: at-most:, for example 10000 per day, or ask for a larger one") with
        {
            Statuses = [400, 402, 403, 429, 503],
            Says = new(
                "a quota is used up",
                "(daily|monthly|weekly|yearly)~(limit|quota|allotment|allowance|maximum|cap|calls|requests)",
                "(quota|allotment|allowance)s?~(exceeded|consumed|used up|exhausted|reached|depleted|spent|over|used)",
                "quota exceeded",
                "limit~(for (the|this) (day|month)|per (day|month)|today)",
                "(calls|requests)~(today|this (day|week|month)|per (day|month))",
                "used \\d+ of \\d+~"),
        },
        Of("limit-used-up-said", "the API's limit is used up, perhaps by another program with the same client", "declare the limit under limits: at-most:, or lower use:") with { Statuses = s_limited, Says = new("requests come too fast", "(rate|request|call) limit\\w*", "too many( \\w+){0,2} (requests|calls)", "throttl\\w+", "slow down", "requests? rate( \\w+)?", "per (second|minute) exceeded", "too (often|fast|frequently|quickly)") },

        // who may come in at all
        Of("step-up", "the API requires a stronger sign-in than the token shows, such as a second factor", "sign in again as the answer asks: cursiva sign-in JOB IDENTITY; or use an application's token if the API allows it") with { Statuses = s_who, Says = new("a stronger sign-in is wanted", "insufficient user authentication", "(multi|two) ?(factor|step)( \\w+)?", "multifactor", "second factor", "mfa( \\w+)?", "2fa", "acr( values)?", "stronger (authentication|method|login|sign in)", "re ?authenticat\\w+", "authenticate again") },
        Of(
            "address-not-allowed-by-api",
            "the API accepts only certain networks, and this machine's is not among them",
            "ask the administrator to allow this machine's outgoing address") with { Statuses = s_who, Says = AccessRefusals.Address },
        Of("payment", "the API account has not been paid for, or its credit is used up", "ask whoever pays for the API") with { Statuses = [400, 402, 403, 429], Says = new("a payment is missing", "(non )?payments?", "billing", "invoices?", "overdue", "unpaid", "(insufficient|no|out of) (credits?|balance|funds)", "credits?~(exhausted|used up)", "balance( \\w+)? (zero|negative|too low)") },
        Of(
            "key-header-missing",
            "the API requires a key in a separate header, next to the token or instead of it",
            "send it in {header}: use headers-beside: of the identity next to a token, or grant: header with header: for the key alone; store the key first: cursiva secret keep api-key") with
        {
            Statuses = s_refused,
            Says = new("a key is missing", "(api|subscription|gateway|access|application|developer|partner) ?key( [^.]{0,40}?)? (missing|absent|required|needed)", "(missing|no|send|put|provide|supply|without|requires?|include|give|gave|given)( \\w+){0,3} (api|subscription|gateway|access|application|function|developer|account|partner) ?key", "(api|subscription|gateway|access|application|function|developer|account|partner) ?key( \\w+){0,3} (missing|needed|required|absent|not (found|provided|given|sent|supplied|present)|must be)", "key (header )?(is )?(missing|required|absent)", "x( \\w+)? key( \\w+)? (header|missing|required|is)") { Unless = new("of a wrong key", "(invalid|wrong|incorrect|expired|revoked|disabled|unknown)( \\w+){0,2} key", "key( \\w+){0,2} (invalid|wrong|expired|revoked|disabled|not valid)") },
        },
        Of("key-wrong", "the API does not know this key, or it was revoked", "compare the key with what the API's administration shows, and store it again: cursiva secret keep NAME") with { Statuses = s_refused, Says = new("the key is wrong", "(invalid|wrong|incorrect|unknown|bad|revoked) key", "(invalid|wrong|incorrect|unknown|bad|expired|revoked|disabled|inactive)( \\w+){0,2} (api|subscription|gateway|access|application|function|developer|account|partner) ?key", "(api|subscription|gateway|access|application|function|developer|this|that|the) ?key( [^.]{0,20}?)? (invalid|wrong|unknown|expired|revoked|disabled|not (valid|known|recogni[sz]ed)|no longer (active|valid))", "key revoked", "(api|subscription|access|this|that|the|your) ?key( [^.]{0,20}?)? (withdrawn|taken back|deleted|rotated|cancelled|retired)", "(unrecogni[sz]ed|unknown|retired|withdrawn|deleted)( \\w+){0,2} key", "not a valid( \\w+)? key", "not (know|recogni[sz]e)( \\w+){0,2} key") { Unless = new("of a signing key", "signing key", "signature") } },
        Of(
            "scheme-wanted",
            "the API expects the token under another scheme or header",
            "set scheme: {scheme}, or header:, of the identity as the API's documentation says; for a name and password or a key, grant: header") with
        {
            Statuses = s_refused,
            Says = new(
                "another scheme is wanted",
                "(authori[sz]ation|authentication|auth) scheme",
                "(basic|digest|negotiate|hmac|signature)( \\w+)? (authentication|auth|authori[sz]ation)~(required|accepted|supported|needed|expected|only)",
                "(only|requires?|use|expects?|expected) (http )?(basic|digest|negotiate|hmac)",
                "expected authori[sz]ation",
                "bearer~<refused>",
                "authori[sz]ation header (must|should) (start|begin|be|look)( \\w+)?",
                "must start with",
                "use authori[sz]ation \\w+",
                "sign the request"),
        },
        Of("account-locked-in-api", "the account is locked or disabled in the API", "ask the API's administrator to unlock or enable it") with { Statuses = s_who, Says = new("the account is locked or disabled", "(user|account|member|your access|access)( account)?( (is|was|has been|been|currently))* (locked|suspended|disabled|blocked|frozen|deactivated|inactive|closed)", "(suspended|locked|disabled) (user|account)") { Unless = new("of the network or the API", "network access", "api access", "internet") } },
        Of("consent-missing-for-api", "the application has not been approved for this by an administrator of the tenant", "ask an administrator to approve the application's permissions; check --live --wait 15m waits until that takes effect") with { Statuses = s_who, Says = new("an approval is missing", "consent(ed)?", "<admin>~(not granted|approv\\w*|not approved|authori[sz]e[ds]?)", "not been approved", "approved by (an |your |the )?<admin>", "pending~approval") },
        Of("not-a-tester-of-api", "the application is being tested, and this account is not on its list", "ask for the account to be added to the testers, or the application published") with { Statuses = s_who, Says = new("only testers are let in", "testers?", "test users?", "development mode", "in testing") },

        // the token
        Of("token-expired", "the API says that the token has expired", "compare this machine's clock with the server's (timedatectl); if tokens live shorter than the server says, run again") with { Statuses = s_who, Says = new("the token has expired", "(token|jwt|session|credentials?)( [^.]{0,40}?)? <ended>", "expired (access )?(token|jwt|session)", "exp~<ended>", "exp~(past|reached|passed)", "lifetime validation( failed)?") },
        Of("wrong-audience-said", OtherAudienceCause, AskRightOne) with { Statuses = s_who, Says = new("the token is for another audience", "aud(ience)?s?", "(meant|intended|issued) for (another|a different|this|other|the)( \\w+)?", "not (meant|intended|issued) for", "(token|jwt)~(meant|intended|minted|destined|made) for", "token is for~not for", "for us") },
        Of("wrong-environment", "the token comes from an authorization server that this API does not trust: another environment, or another issuer", "compare issuer: and token-endpoint: with base: of the API: both must be of the same environment (test or live)") with { Statuses = s_who, Says = new("issuer or environment are wrong", "(token|jwt)~(issued by|from|comes from) an?( \\w+)? (unknown|untrusted|other|different)( \\w+)?", "(authority|issuer|authori[sz]ation server)~(not know|unknown|untrusted|not trusted)", "issuer", "iss", "(token|jwt) signature", "signature( of the token)? (is |was )?(invalid|not valid|verification|could not)", "invalid signature", "(verify|verifying)~signature", "(test|sandbox|staging|production|live|other|another|different|wrong) (environment|mode|instance|host|server)", "(live|test|sandbox|production|staging) (token|key|credentials?)", "sandbox", "signing key~<unknown>") },
        Of("token-malformed", "the API cannot read the token: it expects another kind", "compare header:, scheme: and token-at: of the identity with the API's documentation; cursiva token read --job JOB shows what the token is") with { Statuses = [400, 401, 403], Says = new("the token cannot be read", "malformed( \\w+)? (token|jwt)", "(token|jwt)~(malformed|not a jwt|could not be (parsed|read|decoded)|not well formed)", "(could|can|unable)( not)?( to)? (parse|decode|read|make sense of)( the| this)?( \\w+)? (token|jwt)", "(illegal|invalid|bad) base64( ?url)?", "(invalid|wrong|bad) (token|jwt) format", "segments", "jwt~(periods|parts|dots)") },
        Of("scope-missing", "the token lacks a scope that this path requires", "add {scope} to scope:, and have it granted") with { Statuses = s_who, Never = FixedKey, Says = new("a scope is missing", "insufficient scopes?", "(missing|requires?|lacks?|does not have|needs?|without)( \\w+){0,4} scopes?", "scopes?~(<missing>|insufficient|not (granted|in the token))", "token (needs|lacks|requires|misses) \\w+") },

        // for whom, and where
        Of("persons-only", "this operation is only for people, and an application's token was sent", "use a grant with a person behind it (authorization_code, then cursiva sign-in JOB IDENTITY), or another operation") with { Statuses = s_refused, Never = PersonsToken, Says = new("only persons may do it", "only~user tokens?", "(application|app|service|machine)( only)? tokens?( \\w+){0,2} <refused>", "not (supported|available|allowed) (for|to|with) app\\w*", "(can|may) not be called with an? app\\w*( only)?( token)?", "(user context|signed in user|delegated|users only|persons only|user must|user token|human user|a human)( \\w+)?", "without a user", "on behalf of (a|the|some|its) (user|person|member)") { Unless = new("of applications only", "human users can not") } },
        Of("applications-only", "this operation is only for applications, and a person's token was sent", "sign in as the application itself: grant: client_credentials") with { Statuses = s_who, When = PersonsToken, Says = new("only applications may do it", "only (application|service|app)( \\w+)?", "(application|service account|app)s?( tokens?)? only", "not (available|allowed|supported) (to|for) (users|persons)", "client credentials", "users (can|may) not( \\w+)?", "service (identity|account|principal)") },
        Of("persons-permission", "the token belongs to a person, or has a person's permissions, but an application's are required", "ask for the permission to be granted to the application itself, or sign in with client_credentials") with { Statuses = s_who, When = PersonsToken, Says = new("an application's permission is needed", "(application|app) (roles?|permissions?)") },
        Of("tenant-of-other", "the requested resource belongs to another tenant or organisation", "compare the ids in the path, and the tenant of the identity, with each other") with { Statuses = [403, 404], Says = new("it belongs to another tenant", "(belongs?|owned|is owned)( \\w+)? (to|by) (another|a different|other|someone|somebody)( \\w+)?", "(another|different|other|wrong) <tenant>", "(belongs?|registered|lives) (to|in) <tenant>( \\w+)?~(not|asked|but|and|requested)") },
        Of("account-unknown", "the token is valid, but the account does not exist in the API", "ask for the application or person to be added as a user of the API itself, with a role there") with { Statuses = s_refused, Says = new("the account does not exist", "(user|account|member|principal|profile|identity)( [^.]{0,40}?)? (<unknown>|not a member|no longer exists)", "(identity|account|user|principal|you) (is|are|was|were) not (set up|provisioned|added|invited)( \\w+)?", "(identity|account|user|you) (has|have) not been (set up|provisioned|added|invited)( \\w+)?", "no (such )?(user|account|profile)( \\w+)?", "unknown (user|account|principal)", "not a member of") { Unless = new("of another thing", "api key") } },
        Of("api-not-enabled", "the API is not enabled for this client's project or organisation", "ask for it to be enabled: {link}") with { Statuses = s_refused, Says = new("the API is not enabled", "(api|apis|api access|service|endpoint|interface)( access)?( (is|has|was|been|not))* (enabled|activated|switched on|turned on|disabled|switched off|turned off|deactivated)", "api disabled( \\w+)?", "(enable|turn on|activate|switch on) (the |this )?(api|service)( access)?") { Unless = new("of another thing", "api (version|v\\d)", "(is|was) enabled") } },
        Of("licence-missing", "the tenant has no licence for this, or its plan does not include it", "ask the tenant's administrator, or skip such tenants in the job: skip-when: [{ status: 403 }]") with { Statuses = [400, 402, 403], Says = new("a licence, plan or module is missing", "only (available|included)~(plan|edition|tier|subscription|customers)", "licen[cs](e|es|ed|ing)", "(your|the|this|current) (plan|edition|tier|package)", "subscription( \\w+){0,2} (required|expired|inactive|does not|has ended|missing)", "not (booked|purchased|bought|subscribed)( \\w+)*", "(not|beyond|outside)( \\w+){0,2} (part of|in|of|included in|covered by)( your| the| this| our)?( \\w+)? (subscription|plan|edition|tier|package|contract)", "upgrade (to|your)( \\w+)?", "add on", "modules?~(not|missing)", "feature (is )?(not|un) ?available", "(premium|paid|enterprise)( \\w+)?") { Unless = new("of an upgrade of the system", "upgrading") } },
        Of("role-missing-on-resource", "the application lacks a role on this particular resource", "ask for a role on the resource (the site, folder, project or account), not only in the directory") with { Statuses = s_who, Says = new("a role on the resource is missing", "(no|not have|without) access to (this|the) (project|site|folder|depot|item|account|workspace|resource)", "(no|lacks?|without|missing)( \\w+){0,3} (role|access|permissions?) (on|to|for) (this |the )?(resource|site|folder|project|depot|item|account|workspace)", "not shared with", "no( \\w+)? (assignments?|memberships?|shares?)( \\w+)? (on|in)( \\w+)?", "not (assigned|added|invited) (to|on|in) (this |the )?(resource|site|folder|project|depot|item|workspace)( \\w+)?") },
        Of("application-role-missing", "the application's token lacks the role that this path requires", "ask the administrator to grant the application the role; check --live --wait 15m waits until that takes effect") with { Statuses = s_who, When = ApplicationsToken, Says = new("a role is missing", "(required|missing) roles?", "(lacks?|missing|needs?|requires?|without|no)( \\w+){0,4} roles?", "roles?( [^.]{0,40})? (missing|required|needed)") },

        // the request
        Of("version-header", "the API has to be told which of its versions is requested", "send it as the API's documentation says: in headers: or query: of the API") with { Statuses = [400, 404, 406, 415], Says = new("a version is missing", "(api )?version( \\w+){0,3} (required|missing|must be (specified|given|set)|needed|not (specified|given))", "(missing|specify|without|no|tell us)( \\w+){0,2} (api )?version") },
        Of("old-version", "this version of the API is no longer served", "set base: to the newer address in the API's documentation") with { Statuses = [400, 403, 404, 410], Says = new("the version is no longer served", "(version|v\\d+)( [^.]{0,40}?)? not (supported|available|served|offered)( any ?(more|longer))?", "(version|v\\d+|api)( [^.]{0,40}?)? (retired|no longer (supported|available|served)|sunset|deprecated|switched off|unsupported|removed|discontinued|end of life|gone)", "(retired|deprecated|sunset|unsupported|obsolete)( \\w+){0,2} version", "end of life") },
        Of("path-gateway", "the gateway in front of the API knows no such path: base: or the path is wrong", "compare base: and get: with the API's documentation, prefix and version included") with { Statuses = [404, 502, 503], Says = new("no route leads there", "no (api|service|route|operation|endpoint) (matches|fits|found|here|for)( \\w+)?", "no such route( \\w+)?", "no( \\w+)? route( \\w+)?", "(find|match) (a |the )?(upstream|api|route)( \\w+)?", "no matching (api|route|operation|path)", "unknown (host|route)", "(service|route|path|host) (is )?not mapped") },
        Of("row-unknown", "the path is right, but what it names does not exist", "compare the ids in the path with those in the API; to skip missing ones: skip-when: [{ status: 404 }]") with { Statuses = [404], Says = new("something with a name or number was not found", "(could|can) not find( the| any)? \\w+ \\w*\\d\\w*", "\\w+ [\\w]*\\d[\\w]*( (is|was|could))? (not (found|exist|be found|known)|does not exist|unknown)", "(there is )?no (such )?\\w+ (with|by|of|has)( the)? (id|number|name|key|code)( \\w+)?", "no such (?!page|path|route|endpoint|resource)\\w+ \\w+", "there is no (?!page|path|route|endpoint)\\w+ \\w*\\d\\w*") },
        Of("maintenance", "the API is under maintenance", "run the same command later: it resumes from the last checkpoint") with { Statuses = [500, 502, 503], Says = new("it is being maintained", "maintenance", "(scheduled|planned) (downtime|outage|works?|interruption|upgrade)", "(works|work) (tonight|today|until)", "(upgrading|updating) (the|our) (system|service)s?( \\w+)?", "back (at|by|in|soon)( \\w+)?") },
        Of("permission-missing-said", "the token is valid, but the application lacks a permission or role for this", "ask the administrator to grant the application the permission that this path requires") with { Statuses = [403], Says = new("a permission is missing", "privileges?( \\w+)?", "permissions?", "not (allowed|authori[sz]ed|permitted)", "(client|application|caller|you) (may|can) not \\w+", "only administrators") },
    ];

    private static Diagnosis Of(string id, string cause, string next) => new(id, cause, next) { Desk = Desk.Api };
}
