using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>A request that got no complete answer.</summary>
public sealed class TransportException(Trouble trouble, string what, Exception? inner = null) : Exception(what, inner)
{
    /// <summary>What went wrong on the way.</summary>
    public Trouble Trouble { get; } = trouble;

    /// <summary>Whether the request may have reached the server.</summary>
    public bool MayHaveArrived => Trouble is not (Trouble.Unreachable or Trouble.Tls);
}
