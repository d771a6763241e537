using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>
/// The tokens of one identity. However many requests ask at once, one sign-in serves them all; the next token is fetched before the
/// last one ends; and a token that another run or process got is used as long as it is good.
/// </summary>
public sealed class TokenSource : ITokens, IDisposable
{
    private readonly DeclaredIdentity _identity;
    private readonly SignInServices _services;
    private readonly TokenMaker _maker;
    private readonly SemaphoreSlim _oneAtATime = new(1, 1);
    private TokenEndpoint? _endpoint;
    private volatile AccessToken? _current;
    private string? _refused;

    /// <summary>The tokens of one identity.</summary>
    public TokenSource(DeclaredIdentity identity, SignInServices services)
    {
        _identity = identity;
        _services = services;
        _maker = new TokenMaker(identity, services.Secrets, services.Redactor, services.Clock);
    }

    /// <summary>
    /// How far the authorization server's clock was ahead of this machine's at the last sign-in; null when it did not say.
    /// </summary>
    public TimeSpan? ClockDifference { get; private set; }

    /// <inheritdoc/>
    public Task<AccessToken> GetAsync(CancellationToken cancel) => GetAsync(mayBeKept: true, cancel);

    /// <summary>A token straight from the authorization server, whatever is kept.</summary>
    /// <exception cref="RefusedException">The sign-in was refused.</exception>
    public Task<AccessToken> GetFreshAsync(CancellationToken cancel) => GetAsync(mayBeKept: false, cancel);

    /// <summary>Makes sure that what a sign-in will need is there, before any request is made.</summary>
    /// <exception cref="RefusedException">A secret or key is missing.</exception>
    public async Task PrepareAsync(CancellationToken cancel)
    {
        foreach (var source in _identity.Secrets.Take(1))
            await _services.Secrets.ReadAsync(source, cancel);
        if (_identity.Password is { } password)
            await _services.Secrets.ReadAsync(password, cancel);
        foreach (var value in _identity.TokenParameters.Values.Concat(_identity.TokenHeaders.Values))
            await _services.Secrets.ReadAsync(value, cancel);
        if (_identity.Refreshes)
        {
            var tokens = new RefreshTokens(_identity, _services);
            await using var turn = await tokens.TurnAsync(cancel);

            // A person's sign-in may have brought a token and nothing to renew it with.
            var kept = await new TokenCache(_identity, await tokens.NameAsync(cancel), _services).ReadAsync(cancel);
            if (kept is null || _services.Clock.GetUtcNow() >= kept.RenewAt)
                await tokens.ReadAsync(cancel);
        }

        _endpoint ??= await TokenEndpoint.OpenAsync(_identity, _services, cancel);
    }

    /// <inheritdoc/>
    public bool IsGood(AccessToken token) => ReferenceEquals(_current, token) && _services.Clock.GetUtcNow() < token.RenewAt;

    /// <summary>The API refused this token: the next request asks for another one.</summary>
    public void Refused(AccessToken token)
    {
        // Another request may have brought a newer one already, which stays.
        Volatile.Write(ref _refused, token.Value.Reveal());
        Interlocked.CompareExchange(ref _current, null, token);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _endpoint?.Dispose();
        _oneAtATime.Dispose();
    }

    private async Task<AccessToken> GetAsync(bool mayBeKept, CancellationToken cancel)
    {
        if (mayBeKept && _current is { } good && _services.Clock.GetUtcNow() < good.RenewAt)
            return good;

        await _oneAtATime.WaitAsync(cancel);
        try
        {
            if (mayBeKept && _current is { } fresh && _services.Clock.GetUtcNow() < fresh.RenewAt)
                return fresh;
            return _current = await KeptOrNewAsync(mayBeKept, cancel);
        }
        finally
        {
            _oneAtATime.Release();
        }
    }

    private async Task<AccessToken> KeptOrNewAsync(bool mayBeKept, CancellationToken cancel)
    {
        _endpoint ??= await TokenEndpoint.OpenAsync(_identity, _services, cancel);
        var refreshTokens = _identity.Refreshes ? new RefreshTokens(_identity, _services) : null;
        var grant = ((AskedGrant)_identity.Kind).Ask(new GrantParts(_identity, _endpoint, _services, refreshTokens));
        await using var turn = await grant.TurnAsync(cancel);
        var cache = new TokenCache(_identity, refreshTokens is null ? null : await refreshTokens.NameAsync(cancel), _services);
        if (mayBeKept
            && await cache.ReadAsync(cancel) is { } kept
            && _services.Clock.GetUtcNow() < kept.RenewAt
            && kept.Value != Volatile.Read(ref _refused))
            return await _maker.MakeAsync(kept, cancel) with { IsKept = true };

        var reply = await grant.AskAsync(cancel);
        ClockDifference = reply.ClockDifference;
        var facts = _maker.Read(reply);
        await cache.WriteAsync(facts, CancellationToken.None);
        _services.Watch.SignedIn(_identity.Name, facts.Lifetime);
        return await _maker.MakeAsync(facts, cancel);
    }
}
