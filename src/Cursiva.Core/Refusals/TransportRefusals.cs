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
        new("proxy-unreachable", "the environment names a proxy, and it cannot be reached or does not let the request through", "compare HTTPS_PROXY and NO_PROXY with what this network needs") { Trouble = Trouble.Unreachable, When = Circumstances.Proxied },
        new("http-for-https", "the server speaks plain http at this port, and https was asked for", "write http:// if this is a server on this machine, or take its https port") { Trouble = Trouble.Tls, Says = new("the other side speaks no TLS", "unknown packet", "wrong version( number)?", "unexpected packet", "invalid frame", "can not determine the frame size", "corrupted frame", "unexpected message", "record layer") },
        new("server-certificate-ended", "the server's certificate has expired or is not valid yet", "tell the operator of the server; compare this machine's clock as well: timedatectl") { Trouble = Trouble.Tls, Says = new("the certificate is out of its time", "certificate~(expired|not yet valid|out of date|not time valid)", "not time valid", "has expired") },
        new("server-certificate-of-other-name", "the server's certificate is for another name than the address has", "compare the host in the address with the names in the certificate; where an address of a network is used, use the name") { Trouble = Trouble.Tls, Says = new("the certificate is for another name", "another name", "name mismatch", "certificate name", "(does|did) not match the (name|host)( \\w+)?") },
        new(
            "not-trusted",
            "the server's certificate is not trusted on this machine",
            "if it is from a private authority, name the authority's certificate with trust:; otherwise check the address") { Trouble = Trouble.Tls },
        new("https-for-http", "the server at this address speaks https, and http was asked for", "write https:// in the address") { Trouble = Trouble.CutOff, Says = new("https is wanted", "sent an http request to an https server", "plain http request") },
        new("silent", "the server took longer than timeout: allows", "run again later, or raise timeout:") { Trouble = Trouble.Silent },
        new(
            "cut-off",
            "the connection broke before the answer was whole; a server that expects https at this port does so, too",
            "run the same command again: it goes on from the last checkpoint; compare http:// and https:// in the address") { Trouble = Trouble.CutOff },
        new("redirect-to-https", "the server points from http to https; credentials are never carried along", "write https:// in the address") { Trouble = Trouble.Redirect, Says = new("the same address over https", "https on the same host") },
        new(
            "redirect",
            "the server points to another address; credentials are never carried there",
            "put the address it points to into the job file, if it is the right one") { Trouble = Trouble.Redirect },
    ];
}
