using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>Finds what a job needs and what ends by itself; nothing is sent.</summary>
public sealed class Expiries(SignInServices services)
{
    /// <summary>
    /// What a job's identities, APIs, pulls, writes and deliveries need, the soonest first. What cannot be read is omitted: the run tells
    /// it.
    /// </summary>
    public async Task<IReadOnlyList<Expiry>> OfAsync(Job job, CancellationToken cancel)
    {
        var found = new List<Expiry>();
        foreach (var source in job.NamedSources.Where(source => source.Kind == SecretSource.Kept))
            found.AddRange(await KeptAsync(source.Name, cancel));
        foreach (var identity in job.Identities.Values)
        {
            found.AddRange(await CertificateAsync(identity, cancel));
            found.AddRange(await RefreshTokenAsync(identity, cancel));
        }

        var keys = job.Identities.Values.Select(identity => (KeySource?)identity.Encryption?.Key)
            .Concat(job.Apis.Values.SelectMany(api => Keys(api.Encryption, api.Signatures)))
            .Concat(job.Pulls.SelectMany(pull => Keys(pull.Encryption, pull.Signatures)))
            .Concat(job.Writes.SelectMany(write => Keys(write.Encryption, write.Signatures)));
        using var ring = new KeyRing(services, null);
        foreach (var key in keys.OfType<KeySource>().Distinct().Where(key => key.Address is null))
            found.AddRange(await CertificatesAsync(ring, key, cancel));
        return [.. found.DistinctBy(expiry => (expiry.Kind, expiry.Of)).OrderBy(expiry => expiry.At)];
    }

    /// <summary>What one identity needs: its kept secrets, its certificate, its refresh token.</summary>
    public async Task<IReadOnlyList<Expiry>> OfAsync(DeclaredIdentity identity, CancellationToken cancel)
    {
        var found = new List<Expiry>();
        foreach (var source in identity.Secrets.Where(source => source.Kind == SecretSource.Kept))
            found.AddRange(await KeptAsync(source.Name, cancel));
        return [.. found, .. await CertificateAsync(identity, cancel), .. await RefreshTokenAsync(identity, cancel)];
    }

    private static IEnumerable<KeySource?> Keys(BodyEncryption? encryption, Signatures? signatures) =>
        [encryption?.Key, encryption?.OpenWith, signatures?.Requests?.Key, signatures?.Answers?.Key, signatures?.Rows?.Key];

    private async Task<IEnumerable<Expiry>> KeptAsync(string name, CancellationToken cancel) =>
        await services.Store.FindAsync(name, cancel) is { Expires: { } end }
            ? [new Expiry("secret", $"'{name}'", end, "ask for a new secret, and store it next to the old one")]
            : [];

    private async Task<IEnumerable<Expiry>> CertificateAsync(DeclaredIdentity identity, CancellationToken cancel)
    {
        if (!identity.ProvesByKey)
            return [];
        try
        {
            using var key = await SigningKey.LoadAsync(identity.Key!, services.Secrets, services.Folder, cancel);
            return key.Certificate is { } certificate
                ? [new Expiry(
                    "certificate",
                    certificate.Subject,
                    certificate.NotAfter.ToUniversalTime(),
                    "make a new one with cursiva cert create, and register it next to the old one")]
                : [];
        }
        catch (RefusedException)
        {
            return [];
        }
    }

    private async Task<IEnumerable<Expiry>> RefreshTokenAsync(DeclaredIdentity identity, CancellationToken cancel)
    {
        if (identity is not { Refreshes: true, RefreshTokenLives: not null })
            return [];
        try
        {
            return await services.Store.FindAsync(
                await new RefreshTokens(identity, services).NameAsync(cancel), cancel) is { Expires: { } end }
                ? [new Expiry(
                    "refresh token",
                    $"of {identity.Name}",
                    end,
                    $"it expires if nobody uses it; {(identity.PersonCanSignIn ? $"sign in again before: cursiva sign-in JOB {identity.Name}, or " : "")}keep it alive: cursiva schedule JOB --install")]
                : [];
        }
        catch (RefusedException)
        {
            return [];
        }
    }

    private static async Task<IEnumerable<Expiry>> CertificatesAsync(KeyRing ring, KeySource source, CancellationToken cancel)
    {
        try
        {
            return [.. (await ring.ReadAsync(source, KeyUse.Verify, cancel)).Where(key => key.Certificate is not null)
                .Select(
                    key => new Expiry(
                        "certificate",
                        source.ToString(),
                        key.Certificate!.NotAfter.ToUniversalTime(),
                        "ask the other side for its successor"))];
        }
        catch (RefusedException)
        {
            return [];
        }
    }
}
