using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Identity;

/// <summary>
/// The refresh token of an identity, in the encrypted store (promise 6). A mark is made durable before the token is sent; while a
/// mark stands for the token that is kept, its successor may have been lost with the process that sent it.
/// </summary>
internal sealed class RefreshTokens(DeclaredIdentity identity, SignInServices services)
{
    private const string MarkKind = "refresh-sent";
    private const string SeedKind = "refresh-seed";
    private const string LostMark = " lost";

    private readonly SecretSource? _source = identity.RefreshToken;
    private IState _state = services.State;
    private SecretStore _store = services.Store;
    private RefreshFates _fates = new(services.State, services.Clock);
    private (string Name, string? Seed)? _resolved;
    private ILease? _turn;

    /// <summary>
    /// Waits until nobody else uses the token, on this machine or another one. Everything else here is done while it is held.
    /// </summary>
    /// <exception cref="RefusedException">The token was lost, revoked from here, or replaced by one that is no longer kept.</exception>
    public async Task<IAsyncDisposable> TurnAsync(CancellationToken cancel)
    {
        // Another process may have spent the token that this one knows, so that its successor is kept under another name.
        _resolved = null;
        var name = $"refresh-{RefreshFates.Digest(await NameAsync(cancel))[..16]}";
        _turn = await services.State.Leases.TakeAsync(name, SignInServices.Holder, TokenEndpoint.LongestExchange, services.Clock, cancel);

        // A holder that was not heard of for too long stores no successor over the next one's.
        _state = services.State.Under(_turn);
        _store = new SecretStore(_state, services.Vault, services.Clock);
        _fates = new RefreshFates(_state, services.Clock);
        return _turn;
    }

    /// <summary>Makes sure that the turn is still this process's: to be asked right before the token leaves.</summary>
    /// <exception cref="LeaseLostException">It was not heard of for so long that somebody else may use the token.</exception>
    public void RequireTurn() => _turn!.Require();

    /// <summary>The token as it is kept now. A seed from outside is taken into the store the first time it is seen.</summary>
    /// <exception cref="RefusedException">There is none, or none that may be sent.</exception>
    public async Task<string> ReadAsync(CancellationToken cancel)
    {
        var (name, seed) = await ResolveAsync(cancel);
        var kept = await _store.ReadAsync(name, cancel);
        var token = kept ?? seed ?? throw await MissingAsync(name, cancel);
        services.Redactor.Remember(token);
        if (await MarkOfAsync(name, cancel) == RefreshFates.Digest(token) + LostMark)
            throw Lost(name);
        if (await _fates.OfAsync(token, cancel) is { IsReplaced: true })
            throw await SpentAsync(name, cancel);
        if (kept is not null)
            return token;

        await _store.KeepAsync(name, token, Ends, cancel);
        services.Watch.Warned(
            $"identity '{identity.Name}': the refresh token of {identity.RefreshToken} was read into the store as '{name}'; its successors are kept there, and the original cannot be used again");
        return token;
    }

    /// <summary>The name that the token is kept under.</summary>
    public async Task<string> NameAsync(CancellationToken cancel) => (await ResolveAsync(cancel)).Name;

    /// <summary>Whether this very token was sent before and nothing is known of the answer.</summary>
    public async Task<bool> WasCutShortAsync(string token, CancellationToken cancel) =>
        await MarkOfAsync(await NameAsync(cancel), cancel) == RefreshFates.Digest(token);

    /// <summary>Makes it known, durably, that the token is about to be sent.</summary>
    public async Task MarkAsync(string token, CancellationToken cancel)
    {
        var name = await NameAsync(cancel);
        await _fates.SentAsync(token, name, cancel);
        await WriteMarkAsync(name, RefreshFates.Digest(token), cancel);
    }

    /// <summary>
    /// Makes it known that the token was tried once more after a process had died with it, and refused: it is not sent again.
    /// </summary>
    public async Task LoseAsync(string token, CancellationToken cancel) =>
        await WriteMarkAsync(await NameAsync(cancel), RefreshFates.Digest(token) + LostMark, cancel);

    public async Task UnmarkAsync(CancellationToken cancel) => await _state.DeleteAsync(MarkKind, await NameAsync(cancel), cancel);

    /// <summary>Keeps the successor of a token, durably, over the one before it.</summary>
    public async Task ReplaceAsync(string token, string successor, CancellationToken cancel)
    {
        var name = await NameAsync(cancel);
        await _store.KeepAsync(name, successor, Ends, cancel);
        await _fates.ReplacedAsync(token, successor, name, cancel);
    }

    /// <summary>Notes that a token that stays the same was used, where the job says how long one lives that is not.</summary>
    public async Task ExtendAsync(string token, CancellationToken cancel)
    {
        if (identity.RefreshTokenLives is not null)
            await _store.KeepAsync(await NameAsync(cancel), token, Ends, cancel);
    }

    /// <summary>Keeps the token of a new sign-in, durably.</summary>
    public async Task KeepAsync(string token, CancellationToken cancel)
    {
        var name = await NameAsync(cancel);
        await _store.KeepAsync(name, token, Ends, cancel);
        await _fates.OwnAsync(token, name, cancel);
    }

    /// <summary>Removes the token that the server has revoked for us, and remembers who had it revoked.</summary>
    public async Task RemoveRevokedAsync(CancellationToken cancel)
    {
        var name = await NameAsync(cancel);
        await _fates.RevokedAsync(name, cancel);
        await _store.DropAsync(name, cancel);
    }

    // Every use starts its time again.
    private DateTimeOffset? Ends => identity.RefreshTokenLives is { } lives ? services.Clock.GetUtcNow() + lives : null;

    // Every seed has a name of its own: two services with seeds of two accounts must not take each other's, and a new seed means
    // a new sign-in by somebody. When the seed is gone from outside, the last one's successors are meant. A token that was spent
    // under another name stands for its successors, which are kept there.
    private async Task<(string Name, string? Seed)> ResolveAsync(CancellationToken cancel) => _resolved ??= await LookAsync(cancel);

    private async Task<(string Name, string? Seed)> LookAsync(CancellationToken cancel)
    {
        if (_source is null)
            return (OwnName(), null);
        if (_source.Kind == SecretSource.Kept)
        {
            var kept = await _store.ReadAsync(_source.Name, cancel);
            var fate = kept is null ? null : await _fates.OfAsync(kept, cancel);
            return fate is null || fate.Name == _source.Name ? (_source.Name, null) : (fate.Name, kept);
        }

        var last = await _state.ReadAsync(SeedKind, OwnName(), cancel) is { } document ? Encoding.UTF8.GetString(document) : null;
        string seed;
        try
        {
            seed = (await services.Secrets.ReadAsync(_source, cancel)).Reveal();
        }
        catch (RefusedException) when (last is not null)
        {
            return (last, null);
        }

        var name = (await _fates.OfAsync(seed, cancel))?.Name ?? $"refresh-token/{RefreshFates.Digest(seed)[..16]}";
        if (name != last)
            await _state.WriteAsync(SeedKind, OwnName(), Encoding.UTF8.GetBytes(name), cancel);
        return (name, seed);
    }

    // Jobs that share an identity share its token; another client, server or source has another one.
    private string OwnName()
    {
        if (_source is { Kind: SecretSource.Kept })
            return _source.Name;
        var source = _source is { Kind: SecretSource.File }
            ? Path.GetFullPath(Path.Combine(services.Folder, _source.Name)) + _source.Pointer
            : identity.RefreshToken?.Text;
        return $"refresh-token/{identity.Name}-{RefreshFates.Digest(DeclarationKey.Of([identity.Issuer?.AbsoluteUri, identity.TokenEndpoint?.AbsoluteUri, identity.ClientId, source]))[..8]}";
    }

    private async Task<string?> MarkOfAsync(string name, CancellationToken cancel) =>
        await _state.ReadAsync(MarkKind, name, cancel) is { } document ? Encoding.ASCII.GetString(document) : null;

    private async Task WriteMarkAsync(string name, string mark, CancellationToken cancel) =>
        await _state.WriteAsync(MarkKind, name, Encoding.ASCII.GetBytes(mark), cancel);

    private string SignInAgain =>
        StepPlace.Of("sign in once more: cursiva sign-in JOB IDENTITY", identity, null) + (
            identity.PersonCanSignIn && _source is { Kind: not SecretSource.Kept } ? $", or put a new refresh token into {_source}" : "");

    private RefusedException Lost(string name) =>
        new(new Refusal(
            Outcome.SignInRefused, $"the refresh token of identity '{identity.Name}', stored as '{name}', is lost and is not sent again")
        {
            Cause = RefreshRefusals.CutShortCause,
            NextStep = SignInAgain,
        });

    private async Task<RefusedException> SpentAsync(string name, CancellationToken cancel) =>
        await RevokedAsync(name, cancel)
            ?? new(new Refusal(
                Outcome.SignInRefused,
                $"the refresh token of identity '{identity.Name}' was already replaced by the server and is not sent again: a server that sees it twice revokes the whole sign-in")
            {
                Cause = $"its successor was stored as '{name}', and is no longer there",
                NextStep = SignInAgain,
            });

    private async Task<RefusedException> MissingAsync(string name, CancellationToken cancel) =>
        await RevokedAsync(name, cancel)
            ?? new(new Refusal(Outcome.SignInRefused, $"there is no refresh token for identity '{identity.Name}' (looked for '{name}')")
            {
                Cause =
                "nobody has signed in yet on this machine, the sign-in returned no refresh token and its access token has expired, or another state folder or key is in use",
                NextStep = StepPlace.Of("sign in once: cursiva sign-in JOB IDENTITY", identity, null),
            });

    private async Task<RefusedException?> RevokedAsync(string name, CancellationToken cancel) =>
        await _fates.RevokedAtAsync(name, cancel) is not { } when
            ? null
            : new(new Refusal(
                Outcome.SignInRefused, $"the refresh token of identity '{identity.Name}' was revoked with 'cursiva token revoke' at {when}")
            {
                Cause = "it was revoked from this machine on purpose, and nobody has signed in since",
                NextStep = SignInAgain,
            });
}
