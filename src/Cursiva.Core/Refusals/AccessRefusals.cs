namespace Cursiva.Core.Refusals;

/// <summary>What either side may refuse before it looks at anything: networks, pages in between, proofs of another kind.</summary>
internal static class AccessRefusals
{
    private static readonly int[] s_refused = [400, 401, 403, 495, 496];

    /// <summary>That a request comes from an address that is not let in.</summary>
    public static Saying Address { get; } = new(
        "this network, address or country is not let in",
        "ips?( address(es)?| range| filter)?~<refused>",
        "ips?( address(es)?| range)?~not (on|in|white ?listed|listed)",
        "(restricted|untrusted|unknown|blocked|unauthori[sz]ed|disallowed|unexpected) (ip|network|location|address|country|region)( range| location)?",
        "(network|location|country|region|address(es)?|host)~(<refused>|outside|not trusted)",
        "<refused>~(ip|network|location|country|region|firewall)",
        "(outside|not (on|in|part of))( of)?~(network|ranges?|location|country)",
        "(access|login|sign ?in|request)s? from (your|this|outside|other)~(country|location|network|region|address|place)",
        "(white|allow) ?list(ed)?~(ip|address)",
        "not (on|in|part of)( the| this| our| your)?( \\w+)? (white|allow|safe) ?list",
        "(from|address|ip)( \\d{1,3}){4}~(not|<refused>|outside)",
        "(country|region|location)( is)? not (served|supported|covered)",
        "(ip|address)~(white|allow) ?list(ed)?",
        "public network access",
        "private (endpoint|network)",
        "(network|location|ip|firewall) (policy|rule|restriction|filter|acl)s?");

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        new(
            "bot-check",
            "a guard in front of the server considers this program a bot",
            "ask the server's operator to allow this machine's address, or for an address meant for programs")
        {
            OfPages = true, Statuses = [200, 401, 403, 429, 503],
            Says = new(
                "the sender has to prove that it is a person",
                "you are (a )?human",
                "enable javascript",
                "captcha",
                "solve the challenge",
                "check(ing)?( that)? your browser( \\w+)*",
                "not a (robot|bot)",
                "(bot|automated) (traffic|activity|requests?)"),
        },
        new(
            "web-filter",
            "a web filter between this machine and the server blocked the request",
            "ask whoever runs the network to allow this machine to reach the host")
        {
            OfPages = true, Statuses = [200, 302, 307, 403, 451, 503],
            Says = new(
                "a filter blocked the page",
                "(site|page|url|website|access)~blocked~(web policy|firewall|filter|category|policy|proxy|security)",
                "web page blocked",
                "(web|content|url) ?filter",
                "(blocked|stopped|denied) by (your|the) (\\w+ )?(company|organi[sz]ation|firewall|administrator|network|web|proxy|gateway)",
                "internet (usage|use) policy",
                "security gateway( \\w+)?"),
        },
        new(
            "captive-page",
            "somebody has to accept the network's terms or sign in to it first",
            "open a web page from this machine's network and accept its terms, or use another network")
        {
            OfPages = true, Statuses = [200, 302, 307, 401, 403, 511],
            Says = new(
                "the network itself wants a sign-in",
                "(wi ?fi|hotspot|guest network|captive portal|network authentication)",
                "accept~(terms|conditions)~(network|internet)"),
        },
        new(
            "login-page",
            "a web page answered that asks a person to sign in",
            "compare the address with the API's documentation; an address for browsers is not an address for programs")
        {
            OfPages = true, Statuses = [200], Trouble = Trouble.Html,
            Says = new("a person should sign in", "(sign|log) ?(in|on)( to)?", "user ?name~password", "forgot (your )?password"),
        },
        new("https-needed", "the server can be reached only over https", "write https:// in the address")
        {
            Says = new(
                "https is needed",
                "(https|ssl|tls)( connection)? (is )?(required|needed|mandatory)",
                "(use|requires?|over|only( over)?|must use) https",
                "only (tls|https|ssl|secure)( connections?)?",
                "plain http",
                "http (is )?not (allowed|supported|permitted)",
                "insecure (connection|transport|http)"),
            Statuses = [400, 403, 404, 426, 497],
        },
        new(
            "sender-constrained",
            "the server requires tokens bound to a key (RFC 9449) or a certificate, which Cursiva does not support",
            "ask whether the client can use plain bearer tokens, or use another API")
        {
            Says = new(
                "tokens have to be bound to their sender",
                "dpop",
                "proof of possession",
                "sender constrained",
                "(bound|binding)~(certificate|key|cnf)",
                "htu|htm"), Statuses = s_refused,
        },
        new(
            "client-certificate",
            "the server requires a client certificate in TLS, and none was sent",
            "set client-auth: tls_client_auth, with the certificate under private-key:, once it is registered with the server; cursiva cert create makes one")
        {
            OfPages = true, Statuses = s_refused,
            Says = new(
                "a client certificate is missing",
                "(tls|ssl|mtls)~certificate~<missing>",
                "(no|missing|requires?|required|needs?|present|without)~(ssl|tls|client|mtls)( client)? certificate",
                "(ssl|tls|client|mtls)( client)? certificate~(required|missing|needed|not (presented|sent|provided|given)|was (expected|required))",
                "(present|show|send) a( client)? certificate",
                "mutual tls",
                "mtls( is)? required",
                "tls client auth~required")
                {
                    Unless = new("of another method", "client secret (post|basic)", "assertion", "private key jwt", "not yet valid"),
                },
        },
    ];
}
