namespace Cursiva.Core.Refusals;

/// <summary>What it means when there is no answer, or none that counts.</summary>
internal static class TransportRefusals
{
    /// <summary>Stands among the words when a redirect only asks for https on the same host.</summary>
    public const string HttpsInstead = "[https on the same host]";

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        new(
            "unreachable",
            "the host name, the port or the network is wrong, or a firewall is in between",
            "try the address with another program from this machine") { Trouble = Trouble.Unreachable },
        new(
            "proxy-unreachable",
            "the environment names a proxy that cannot be reached or does not allow the request",
            "compare HTTPS_PROXY and NO_PROXY with what this network requires")
            {
                Trouble = Trouble.Unreachable,
                When = Circumstances.Proxied,
            },
        new(
            "http-for-https",
            "the server speaks plain http at this port, and the job says https",
            "write http:// if the server is on this machine, or use its https port")
            {
                Trouble = Trouble.Tls,
                Says = new(
                    "the other side speaks no TLS",
                    "unknown packet",
                    "wrong version( number)?",
                    "unexpected packet",
                    "invalid frame",
                    "can not determine the frame size",
                    "corrupted frame",
                    "unexpected message",
                    "record layer"),
            },
        new(
            "server-certificate-ended",
            "the server's certificate has expired or is not valid yet",
            "tell the server's operator; also check this machine's clock: timedatectl")
            {
                Trouble = Trouble.Tls,
                Says = new(
                    "the certificate is out of its time",
                    "certificate~(expired|not yet valid|out of date|not time valid)",
                    "not time valid",
                    "has expired"),
            },
        new(
            "server-certificate-of-other-name",
            "the server's certificate is for another name than the one in the address",
            "compare the host in the address with the names in the certificate; if the address has an IP address, use the name")
            {
                Trouble = Trouble.Tls,
                Says = new(
                    "the certificate is for another name",
                    "another name",
                    "name mismatch",
                    "certificate name",
                    "(does|did) not match the (name|host)( \\w+)?"),
            },
        new(
            "not-trusted",
            "the server's certificate is not trusted on this machine",
            "if it is from a private authority, set trust: to the authority's certificate; otherwise check the address")
            {
                Trouble = Trouble.Tls,
            },
        new("https-for-http", "the server at this address speaks https, and the job says http", "write https:// in the address")
        {
            Trouble = Trouble.CutOff,
            Says = new("https is wanted", "sent an http request to an https server", "plain http request"),
        },
        new("silent", "the server took longer than timeout: allows", "run again later, or raise timeout:") { Trouble = Trouble.Silent },
        new(
            "cut-off",
            "the connection broke before the answer was complete; a server that expects https at this port also does this",
            "run the same command again: it resumes from the last checkpoint; compare http:// and https:// in the address")
            {
                Trouble = Trouble.CutOff,
            },
        new(
            "redirect-to-https",
            "the server redirects from http to https; credentials never follow a redirect",
            "write https:// in the address")
            {
                Trouble = Trouble.Redirect,
                Says = new("the same address over https", "https on the same host"),
            },
        new(
            "redirect",
            "the server redirects to another address; credentials never follow a redirect",
            "if the other address is the right one, put it into the job file") { Trouble = Trouble.Redirect },
    ];
}
