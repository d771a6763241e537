using Renci.SshNet;

namespace Cursiva.Core.Deliveries;

/// <summary>How a user signs in to a server of files.</summary>
/// <param name="key">What the method uses and does not end by itself; null for none.</param>
internal sealed class SftpProof(AuthenticationMethod method, IDisposable? key) : IDisposable
{
    public AuthenticationMethod Method => method;

    public void Dispose()
    {
        method.Dispose();
        key?.Dispose();
    }
}
