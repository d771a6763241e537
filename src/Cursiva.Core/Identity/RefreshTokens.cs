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

    private readonly SecretSource? _source = identity.RefreshToken is null ? null : SecretSource.TryParse(identity.RefreshToken);

    /// <summary>The name that the token is kept under.</summary>
    public string Name => _source is { Kind: SecretSource.Kept } ? _source.Name : OwnName();

    /// <summary>Waits until no other process of this machine uses the token.</summary>
    public async Task<IDisposable> TurnAsync(CancellationToken cancel)
    {
        var folder = Path.Combine(services.StateFolder.Root, "locks");
        services.Disk.CreateFolder(folder);
        return await ProcessLock.TakeAsync(Path.Combine(folder, "refresh-" + Digest(Name)[..16]), SignInServices.Holder, services.Clock, cancel);
    }

    /// <summary>The token as it is kept now. A seed from outside is taken into the store once, and again when it was replaced.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public async Task<string> ReadAsync(CancellationToken cancel)
    {
        var kept = await services.Store.ReadAsync(Name, cancel);
        if (_source is null or { Kind: SecretSource.Kept })
            return kept is null ? throw Missing() : Remember(kept);

        string seed;
        try
        {
            seed = (await services.Secrets.ReadAsync(identity.RefreshToken!, cancel)).Reveal();
        }
        catch (RefusedException) when (kept is not null)
        {
            return Remember(kept);
        }

        var digest = Encoding.ASCII.GetBytes(Digest(seed));
        var known = await services.State.ReadAsync(SeedKind, Name, cancel);
        if (kept is not null && known.AsSpan().SequenceEqual(digest))
            return Remember(kept);

        // The token first: a seed that is known and not kept would be passed over for ever.
        await services.Store.KeepAsync(Name, seed, null, cancel);
        await services.State.WriteAsync(SeedKind, Name, digest, cancel);
        services.Watch.Warned($"identity '{identity.Name}': the refresh token of {identity.RefreshToken} was taken into the store as '{Name}'; its successors live there, and the one outside is of no more use");
        return seed;
    }

    /// <summary>Whether this very token was sent before and nothing is known of the answer.</summary>
    public async Task<bool> WasCutShortAsync(string token, CancellationToken cancel) =>
        (await services.State.ReadAsync(MarkKind, Name, cancel)).AsSpan().SequenceEqual(Encoding.ASCII.GetBytes(Digest(token)));

    /// <summary>Makes it known, durably, that the token is about to be sent.</summary>
    public Task MarkAsync(string token, CancellationToken cancel) => services.State.WriteAsync(MarkKind, Name, Encoding.ASCII.GetBytes(Digest(token)), cancel);

    public Task UnmarkAsync(CancellationToken cancel) => services.State.DeleteAsync(MarkKind, Name, cancel);

    /// <summary>Keeps a token, durably, over the one before it.</summary>
    public Task KeepAsync(string token, CancellationToken cancel) => services.Store.KeepAsync(Name, token, null, cancel);

    private string Remember(string token) => services.Redactor.Remember(token).Reveal();

    // Jobs that share an identity share its token; another client, server or seed has another one.
    private string OwnName() => $"refresh-token/{identity.Name}-{Digest($"{identity.Issuer}\n{identity.TokenEndpoint}\n{identity.ClientId}\n{identity.RefreshToken}")[..8]}";

    private static string Digest(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));

    private RefusedException Missing() => new(new Refusal(Outcome.SignInRefused, $"no refresh token is kept for identity '{identity.Name}' (looked for '{Name}')")
    {
        Cause = "nobody has signed in yet on this machine, or another state folder or key is in use",
        NextStep = $"sign in once: cursiva sign-in JOB {identity.Name}",
    });
}
