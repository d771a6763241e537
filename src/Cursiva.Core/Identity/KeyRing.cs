using System.Collections.Concurrent;
using System.Globalization;
using System.Security.Cryptography.X509Certificates;
using Cursiva.Core.Encryption;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>
/// The keys of encrypted and signed exchanges, each read or fetched once; a certificate counts within its dates and for its purpose alone.
/// </summary>
/// <param name="trust">The certificate authorities that are trusted where a key set is fetched; null for those of the machine.</param>
public sealed class KeyRing(SignInServices services, string? trust) : IDisposable
{
    private const int LargestSet = 1024 * 1024;
    private static readonly TimeSpan s_timeout = TimeSpan.FromSeconds(30);

    private readonly ConcurrentDictionary<KeySource, Lazy<Task<IReadOnlyList<ExchangeKey>>>> _known = new();

    /// <summary>The keys of a source.</summary>
    /// <exception cref="RefusedException">There are none, or the certificate is none for this use.</exception>
    public async Task<IReadOnlyList<ExchangeKey>> ReadAsync(KeySource source, KeyUse use, CancellationToken cancel)
    {
        // A set has keys for encryption and for signatures, often without a word on which of them is meant.
        var keys = await ReadAsync(source, cancel);
        var other = use is KeyUse.Sign or KeyUse.Verify ? "enc" : "sig";
        List<ExchangeKey> fit = [.. keys.Where(key => key.Use != other)];
        if (fit.Count == 0)
            throw Wrong(
                source,
                $"every key there is published for {(other == "enc" ? "encryption" : "signatures")} (use: {other}), but it is needed to {use.ToString().ToLowerInvariant()}",
                "name the set, or the key in it, that is meant for that");
        foreach (var key in fit)
            Check(key, source, use);
        return fit;
    }

    /// <summary>The one key of a source.</summary>
    /// <exception cref="RefusedException">There is none, or there are several.</exception>
    public async Task<ExchangeKey> OnlyAsync(KeySource source, KeyUse use, CancellationToken cancel) =>
        await ReadAsync(source, use, cancel) is [var only, ..] keys && (keys.Count == 1 || source.Id is not null)
            ? only
            : throw Wrong(source, "there are several keys", "choose one: key-id: ID");

    /// <summary>Reads a source again at its next use: the other side signs with a key that was not there.</summary>
    public void Forget(KeySource source) => _known.TryRemove(source, out _);

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var known in _known.Values.Where(known => known.IsValueCreated && known.Value.IsCompletedSuccessfully))
        {
            foreach (var key in known.Value.Result)
                key.Dispose();
        }
    }

    private async Task<IReadOnlyList<ExchangeKey>> ReadAsync(KeySource source, CancellationToken cancel)
    {
        // Whoever asks first may be stopped; the others must not be told so.
        var known = _known.GetOrAdd(source, asked => new(() => LoadAsync(asked, CancellationToken.None)));
        try
        {
            return await known.Value.WaitAsync(cancel);
        }
        catch (RefusedException)
        {
            _known.TryRemove(source, out _);
            throw;
        }
    }

    private async Task<IReadOnlyList<ExchangeKey>> LoadAsync(KeySource source, CancellationToken cancel)
    {
        var bytes = source.Source is { } secret
            ? await services.Secrets.ReadBytesAsync(secret, cancel)
            : await FetchAsync(source.Address!, cancel);
        var password = source.Password is null ? null : (await services.Secrets.ReadAsync(source.Password, cancel)).Reveal();
        IReadOnlyList<ExchangeKey> keys;
        try
        {
            keys = ExchangeKeys.Read(bytes, password);
        }
        catch (PayloadException error)
        {
            throw Wrong(source, error.Message, "name a key in PEM, DER, PKCS #12 or JWK format, with key-password: if it has a password");
        }

        foreach (var shared in keys.Select(key => key.Secret).OfType<byte[]>())
            services.Redactor.Remember(Convert.ToBase64String(shared));
        if (source.Id is not { } id)
            return keys;
        if (keys is [{ Id: null } only])
            return [only.As(id)];
        return keys.Where(key => key.Id == id).ToList() is { Count: > 0 } chosen ? chosen
            : throw Wrong(
                source,
                $"no key has the id '{id}'; the ids are {string.Join(", ", keys.Select(key => key.Id ?? "one without an id"))}",
                "compare key-id: with what the other side publishes: it may belong to another environment");
    }

    private async Task<byte[]> FetchAsync(Uri address, CancellationToken cancel)
    {
        var request = new Request(HttpMethod.Get, address, [new("Accept", "application/jwk-set+json, application/json")]);
        for (var attempt = 1; ; attempt++)
        {
            string why;
            try
            {
                using var answer = await services.Senders.For(trust).SendAsync(request, new Patience(s_timeout, LargestSet), cancel);
                services.Requests.Answered(request, answer.Status, answer.Took);
                if (answer.IsSuccess)
                    return answer.Body.Content.ToArray();
                why = $"status {answer.Status}";
                if (!Retries.IsPassing(answer.Status) || attempt == Retries.SignIn)
                    throw NotGiven(request, why);
            }
            catch (TransportException error)
            {
                why = error.Message;
                if (error.Trouble == Trouble.Tls || attempt == Retries.SignIn)
                    throw NotGiven(request, why);
            }

            var delay = services.Backoff.After(attempt);
            services.Requests.Retrying(request, why, attempt, delay);
            await Waits.DelayAsync(delay, services.Clock, cancel);
        }
    }

    private static RefusedException NotGiven(Request request, string why) =>
        new(new Refusal(Outcome.SignInRefused, $"the key set at {request.Uri} cannot be read: {why}")
        {
            NextStep =
            "compare the address under key: with the other side's documentation, and try it from this machine; or keep the key in a file",
            Step = "key",
            Request = request.ToString(),
        });

    private void Check(ExchangeKey key, KeySource source, KeyUse use)
    {
        if (use is KeyUse.Open or KeyUse.Sign && !key.IsPrivate)
            throw Wrong(
                source,
                $"it is a {key.Words}, and {(use == KeyUse.Sign ? "signing" : "opening")} needs a private one",
                "name the file with the private key: a PEM with PRIVATE KEY, or a PKCS #12 file");
        if (key.Certificate is not { } certificate)
            return;
        var (from, until, now) = (
            certificate.NotBefore.ToUniversalTime(), certificate.NotAfter.ToUniversalTime(), services.Clock.GetUtcNow());
        if (now < from || now > until)
            throw Wrong(
                source,
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"its certificate {(now > until ? $"expired on {until:yyyy-MM-dd HH:mm}Z" : $"is not valid before {from:yyyy-MM-dd HH:mm}Z")}"),
                use is KeyUse.Open or KeyUse.Sign
                    ? "make a new one with cursiva cert create, and register it"
                    : "ask the other side for the one that is valid now");
        var usages = certificate.Extensions.OfType<X509KeyUsageExtension>().FirstOrDefault()?.KeyUsages;
        if (use == KeyUse.Verify && usages is { } issuing && (issuing & X509KeyUsageFlags.KeyCertSign) != 0)
            return; // An authority: the signer's certificate comes with what it signed.
        var needed = use is KeyUse.Sign or KeyUse.Verify
            ? X509KeyUsageFlags.DigitalSignature | X509KeyUsageFlags.NonRepudiation
            : X509KeyUsageFlags.KeyEncipherment | X509KeyUsageFlags.DataEncipherment;
        if (usages is { } given && (given & needed) == 0)
            throw Wrong(
                source,
                $"its certificate is only for {given} (key usage, RFC 5280 section 4.2.1.3), but it is needed to {use.ToString().ToLowerInvariant()}",
                "ask for the certificate meant for that: many authorities have one for signatures and one for encryption");
    }

    private static RefusedException Wrong(KeySource source, string what, string next) =>
        new(new Refusal(Outcome.SignInRefused, $"the key of {source} cannot be used: {what}") { NextStep = next, Step = "key" });
}
