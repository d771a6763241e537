using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>
/// The refresh token of an identity, in the encrypted store (promise 6). A mark is made durable before the token is sent; while a
/// mark stands for the token that is kept, its successor may have been lost with the process that sent it.
/// </summary>
internal sealed class RefreshTokens(DeclaredIdentity identity, SignInServices services)
{
    private const string MarkKind = "refresh-sent";
    private const string SeedKind = "refresh-seed";

    private readonly SecretSource? _source = identity.RefreshToken;
    private (string Name, string? Seed)? _resolved;

    /// <summary>Waits until no other process of this machine uses the token. Everything else here is done while it is held.</summary>
    public async Task<IDisposable> TurnAsync(CancellationToken cancel)
    {
        var folder = Path.Combine(services.StateFolder.Root, "locks");
        services.Disk.CreateFolder(folder);
        return await ProcessLock.TakeAsync(Path.Combine(folder, "refresh-" + Digest(OwnName())[..16]), SignInServices.Holder, services.Clock, cancel);
    }

    /// <summary>The token as it is kept now. A seed from outside is taken into the store the first time it is seen.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<string> ReadAsync(CancellationToken cancel)
    {
        var (name, seed) = await ResolveAsync(cancel);
        if (await services.Store.ReadAsync(name, cancel) is { } kept)
            return services.Redactor.Remember(kept).Reveal();
        if (seed is null)
            throw Missing(name);

        await KeepAsync(seed, cancel);
        services.Watch.Warned($"identity '{identity.Name}': the refresh token of {identity.RefreshToken} was taken into the store as '{name}'; its successors live there, and the one outside is of no more use");
        return seed;
    }

    /// <summary>The name that the token is kept under.</summary>
    public async Task<string> NameAsync(CancellationToken cancel) => (await ResolveAsync(cancel)).Name;

    /// <summary>Whether this very token was sent before and nothing is known of the answer.</summary>
    public async Task<bool> WasCutShortAsync(string token, CancellationToken cancel) =>
        (await services.State.ReadAsync(MarkKind, await NameAsync(cancel), cancel)).AsSpan().SequenceEqual(Encoding.ASCII.GetBytes(Digest(token)));

    /// <summary>Makes it known, durably, that the token is about to be sent.</summary>
    public async Task MarkAsync(string token, CancellationToken cancel) => await services.State.WriteAsync(MarkKind, await NameAsync(cancel), Encoding.ASCII.GetBytes(Digest(token)), cancel);

    public async Task UnmarkAsync(CancellationToken cancel) => await services.State.DeleteAsync(MarkKind, await NameAsync(cancel), cancel);

    /// <summary>Keeps a token, durably, over the one before it.</summary>
    public async Task KeepAsync(string token, CancellationToken cancel) => await services.Store.KeepAsync(await NameAsync(cancel), token, null, cancel);

    // Every seed has a name of its own: two services with seeds of two accounts must not take each other's, and a new seed means
    // a new sign-in by somebody. When the seed is gone from outside, the last one's successors are meant.
    private async Task<(string Name, string? Seed)> ResolveAsync(CancellationToken cancel)
    {
        if (_resolved is { } known)
            return known;
        if (_source is null or { Kind: SecretSource.Kept })
            return (_resolved = (_source?.Name ?? OwnName(), null)).Value;

        var last = await services.State.ReadAsync(SeedKind, OwnName(), cancel) is { } document ? Encoding.UTF8.GetString(document) : null;
        string seed;
        try
        {
            seed = (await services.Secrets.ReadAsync(identity.RefreshToken!, cancel)).Reveal();
        }
        catch (RefusedException) when (last is not null)
        {
            return (_resolved = (last, null)).Value;
        }

        var name = $"{OwnName()}-{Digest(seed)[..8]}";
        if (name != last)
            await services.State.WriteAsync(SeedKind, OwnName(), Encoding.UTF8.GetBytes(name), cancel);
        return (_resolved = (name, seed)).Value;
    }

    // Jobs that share an identity share its token; another client, server or source has another one.
    private string OwnName()
    {
        if (_source is { Kind: SecretSource.Kept })
            return _source.Name;
        var source = _source is { Kind: SecretSource.File } ? Path.GetFullPath(Path.Combine(services.Folder, _source.Name)) + _source.Pointer : identity.RefreshToken?.Text;
        return $"refresh-token/{identity.Name}-{Digest(DeclarationKey.Of([identity.Issuer?.AbsoluteUri, identity.TokenEndpoint?.AbsoluteUri, identity.ClientId, source]))[..8]}";
    }

    private static string Digest(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));

    private RefusedException Missing(string name) => new(new Refusal(Outcome.SignInRefused, $"no refresh token is kept for identity '{identity.Name}' (looked for '{name}')")
    {
        Cause = "nobody has signed in yet on this machine, the sign-in brought no refresh token and its access token has ended, or another state folder or key is in use",
        NextStep = $"sign in once: cursiva sign-in JOB {identity.Name}",
    });
}
