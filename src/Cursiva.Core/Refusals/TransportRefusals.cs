namespace Cursiva.Core.Refusals;

/// <summary>What it means when there is no answer, or none that counts.</summary>
internal static class TransportRefusals
{
    /// <summary>Stands among the words when a redirect only asks for https on the same host.</summary>
    public const string HttpsInstead = "[https on the same host]";

    public static IReadOnlyList<Diagnosis> Entries { get; } =
    [
        new("unreachable", "the host name, the port or the network is wrong, or a firewall is in between", "try the address with another program from this machine") { Trouble = Trouble.Unreachable },
        new("proxy-unreachable", "the environment names a proxy, and it cannot be reached or does not let the request through", "compare HTTPS_PROXY and NO_PROXY with what this network needs") { Trouble = Trouble.Unreachable, When = Circumstances.Proxied },
        new("http-for-https", "the server speaks plain http at this port, and https was asked for", "write http:// if this is a server on this machine, or take its https port") { Trouble = Trouble.Tls, Words = ["unknown packet", "wrong version", "unexpected packet", "invalid frame", "cannot determine the frame size", "corrupted frame"] },
        new("not-trusted", "the server's certificate is not trusted on this machine", "if it is from a private authority, name the authority's certificate with trust:; otherwise check the address") { Trouble = Trouble.Tls },
        new("https-for-http", "the server at this address speaks https, and http was asked for", "write https:// in the address") { Trouble = Trouble.CutOff, Words = ["client sent an http request to an https server"] },
        new("silent", "the server took longer than timeout: allows", "run again later, or raise timeout:") { Trouble = Trouble.Silent },
        new("cut-off", "the connection broke before the answer was whole; a server that expects https at this port does so, too", "run the same command again: it goes on from the last checkpoint; compare http:// and https:// in the address") { Trouble = Trouble.CutOff },
        new("redirect-to-https", "the server points from http to https; credentials are never carried along", "write https:// in the address") { Trouble = Trouble.Redirect, Words = [HttpsInstead] },
        new("redirect", "the server points to another address; credentials are never carried there", "put the address it points to into the job file, if it is the right one") { Trouble = Trouble.Redirect },
    ];
}
