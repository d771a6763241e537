using System.Net.Security;
using System.Security.Cryptography.X509Certificates;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>Senders by whom they trust and which certificate they show. Those that are alike share connections.</summary>
/// <param name="folder">Where relative paths start.</param>
/// <param name="handler">What carries the requests; tests give their own, which is then used for all.</param>
public sealed class HttpSenders(TimeProvider clock, string folder, HttpMessageHandler? handler = null) : IDisposable
{
    private readonly Dictionary<(string? Trust, string? Thumbprint, TimeSpan? Connect), HttpSender> _senders = [];
    private readonly Lock _gate = new();

    /// <summary>Is told every exchange; null for nobody. Counts for senders that are asked for afterwards.</summary>
    public IExchangeWatch? Trace { get; set; }

    /// <param name="trust">A PEM file with the only certificate authorities that are trusted; null trusts those of the machine.</param>
    /// <param name="certificate">The client's certificate with its private key (RFC 8705); null shows none.</param>
    /// <param name="connect">Longest wait for a connection; null for the usual one.</param>
    /// <exception cref="RefusedException">The file cannot be read or holds no certificate.</exception>
    public HttpSender For(string? trust = null, X509Certificate2? certificate = null, TimeSpan? connect = null)
    {
        lock (_gate)
        {
            var key = (trust, certificate?.Thumbprint, connect);
            if (!_senders.TryGetValue(key, out var sender))
                _senders[key] = sender = new HttpSender(clock, handler ?? Handler(trust, certificate, connect), Trace);
            return sender;
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var sender in _senders.Values)
            sender.Dispose();
    }

    private SocketsHttpHandler Handler(string? trust, X509Certificate2? certificate, TimeSpan? connect)
    {
        var made = HttpSender.NewHandler(connect);
        if (certificate is not null)
            made.SslOptions.ClientCertificateContext = SslStreamCertificateContext.Create(
                certificate, additionalCertificates: null, offline: true);
        if (trust is not null)
            made.SslOptions.CertificateChainPolicy = TrustedAuthorities.Policy(Path.Combine(folder, trust));
        return made;
    }
}
