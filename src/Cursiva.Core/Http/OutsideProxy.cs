using System.Net;

namespace Cursiva.Core.Http;

/// <summary>
/// The proxy that the environment names, for everything but this machine: what is meant for a loopback address never leaves it.
/// </summary>
internal sealed class OutsideProxy(IWebProxy proxy) : IWebProxy
{
    public ICredentials? Credentials
    {
        get => proxy.Credentials;
        set => proxy.Credentials = value;
    }

    public Uri? GetProxy(Uri destination) => destination.IsLoopback ? null : proxy.GetProxy(destination);

    public bool IsBypassed(Uri host) => host.IsLoopback || proxy.IsBypassed(host);
}
