using System.Security.Cryptography.X509Certificates;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>The tokens of a job's identities; APIs of one identity share them.</summary>
public sealed class SignIns(SignInServices services) : IDisposable
{
    private readonly Dictionary<string, ITokens> _tokens = new(StringComparer.Ordinal);
    private readonly Dictionary<string, X509Certificate2?> _certificates = new(StringComparer.Ordinal);
    private readonly List<SigningKey> _keys = [];

    /// <summary>The tokens of an identity; null when nobody signs in.</summary>
    public ITokens? Of(DeclaredIdentity? identity)
    {
        if (identity is null)
            return null;
        if (services.Rehearsed is { } rehearsed)
            return new RehearsedTokens(identity, rehearsed);
        if (!_tokens.TryGetValue(DeclarationKey.Of(identity), out var tokens) && Make(identity) is { } made)
            _tokens[DeclarationKey.Of(identity)] = tokens = made;
        return tokens;
    }

    /// <summary>The certificate that requests with the identity's tokens show: tokens may be bound to it (RFC 8705 section 3).</summary>
    /// <exception cref="Refusals.RefusedException">The key cannot be read.</exception>
    public async Task<X509Certificate2?> CertificateAsync(DeclaredIdentity? identity, CancellationToken cancel)
    {
        if (identity?.Key is null || services.Rehearsed is not null || !identity.ClientAuth.Contains(ClientAuths.Tls))
            return null;
        if (!_certificates.TryGetValue(DeclarationKey.Of(identity), out var certificate))
        {
            var key = await SigningKey.LoadAsync(identity.Key, services.Secrets, services.Folder, cancel);
            _keys.Add(key);
            _certificates[DeclarationKey.Of(identity)] = certificate = key.Certificate;
        }

        return certificate;
    }

    private ITokens? Make(DeclaredIdentity identity) => ((AskedGrant)identity.Kind).TokensOf(identity, services);

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var source in _tokens.Values.OfType<TokenSource>())
            source.Dispose();
        foreach (var key in _keys)
            key.Dispose();
    }
}
