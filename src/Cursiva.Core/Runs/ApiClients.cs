using System.Collections.Concurrent;
using Cursiva.Core.Apis;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Runs;

/// <summary>The clients of a job's APIs: one for every API and identity that requests are made with.</summary>
public sealed class ApiClients(Job job, SignIns signIns, SignInServices services) : IAsyncDisposable
{
    private readonly Dictionary<string, ApiClient> _clients = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<Asked, ApiClient> _alike = new();
    private readonly SemaphoreSlim _opening = new(1, 1);

    /// <summary>Makes sure that what the job's pulls will need is there, before any request is made.</summary>
    /// <exception cref="Refusals.RefusedException">A secret or key is missing.</exception>
    public async Task PrepareAsync(CancellationToken cancel)
    {
        foreach (var pull in job.Pulls)
        {
            var identity = IdentityOf(pull);
            if (identity is not null && job.Strands.Identities.ContainsKey(identity) || job.Strands.Apis.ContainsKey(pull.Api))
                continue;
            if (signIns.Of(identity is null ? null : job.Identities[identity]) is TokenSource source)
                await source.PrepareAsync(cancel);
            await OfAsync(pull, _ => null, cancel);
        }
    }

    /// <summary>The client for a strand of a pull.</summary>
    /// <param name="values">The strand's values, by name, for identities and APIs that differ from strand to strand.</param>
    /// <exception cref="Refusals.RefusedException">A secret or key is missing.</exception>
    /// <exception cref="JobMistakesException">A value makes no identity or API.</exception>
    public Task<ApiClient> OfAsync(Pull pull, Func<string, string?> values, CancellationToken cancel) =>
        OfAsync(new Asked(pull.Api, pull.Identity, pull.Encryption, pull.Signatures), values, cancel);

    /// <summary>The client for an item of a write.</summary>
    /// <param name="values">The item's values, by name.</param>
    /// <exception cref="Refusals.RefusedException">A secret or key is missing.</exception>
    /// <exception cref="JobMistakesException">A value makes no identity or API.</exception>
    public Task<ApiClient> OfAsync(Write write, Func<string, string?> values, CancellationToken cancel) =>
        OfAsync(new Asked(write.Api, write.Identity, write.Encryption, write.Signatures), values, cancel);

    private async Task<ApiClient> OfAsync(Asked asked, Func<string, string?> values, CancellationToken cancel)
    {
        if (_alike.TryGetValue(asked, out var known))
            return known;
        var (apiName, identityName) = (asked.Api, asked.Identity);
        var api = job.Strands.Apis.TryGetValue(apiName, out var makeApi) ? makeApi(values) : job.Apis[apiName];
        api = api.For(asked.Encryption, asked.Signatures);
        var name = identityName ?? api.Identity;
        var identity = name is null ? null : job.Strands.Identities.ContainsKey(name) ? job.Strands.Identity(
            name, values) : job.Identities[name];
        var key = DeclarationKey.Of([DeclarationKey.Of(api), DeclarationKey.Of(identity)]);
        await _opening.WaitAsync(cancel);
        try
        {
            if (!_clients.TryGetValue(key, out var client))
                _clients[key] = client = await OpenAsync(api, identity, signIns, services, cancel);

            // What does not differ from strand to strand need not be compared for each.
            if (!job.Strands.Apis.ContainsKey(apiName) && (name is null || !job.Strands.Identities.ContainsKey(name)))
                _alike[asked] = client;
            return client;
        }
        finally
        {
            _opening.Release();
        }
    }

    /// <summary>Opens the client of one API as an identity.</summary>
    public static async Task<ApiClient> OpenAsync(
        Api api, DeclaredIdentity? identity, SignIns signIns, SignInServices services, CancellationToken cancel)
    {
        var tokens = signIns.Of(identity);
        var fields = identity is { TokenFields.Count: > 0 } && tokens is not null
            ? (await tokens.GetAsync(cancel)).Fields
            : new Dictionary<string, string>();
        if (api.TokenBase is not null)
            api = api with { Base = TokenBase.Fill(api, fields), TokenBase = null };
        var access = new ApiAccess(
            identity,
            tokens,
            await Companions.OfAsync(api, services.Secrets, cancel),
            services.Senders.For(api.Trust, await signIns.CertificateAsync(identity, cancel), api.ConnectTimeout),
            services.Senders.For(api.Trust, connect: api.ConnectTimeout))
        { TokenFields = fields, Payloads = await PayloadsAsync(api, services, cancel) };
        return new ApiClient(
            api, access, services.State, services.Redactor, services.Backoff, services.Clock, services.Requests, services.Budget);
    }

    private static async Task<PayloadDesk?> PayloadsAsync(Api api, SignInServices services, CancellationToken cancel)
    {
        if (api.Encryption is null && api.Signatures is null)
            return null;
        if (services.Rehearsed is not null)
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine,
                $"API '{api.Name}' encrypts or signs its bodies, so its recording cannot be decrypted: the keys were only for that run")
            {
                NextStep = "run the job against the API, or against its test environment",
            });
        }

        var desk = new PayloadDesk(
            api, new KeyRing(services, api.Trust), services.Redactor, services.Clock, services.Watch.Warned, services.Shown);
        await desk.PrepareAsync(cancel);
        return desk;
    }

    // What tells one client of a pull or write from another before values of strands are known.
    private sealed record Asked(string Api, string? Identity, BodyEncryption? Encryption, Signatures? Signatures);

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (var client in _clients.Values)
            await client.DisposeAsync();
        _opening.Dispose();
    }

    private string? IdentityOf(Pull pull) => pull.Identity ?? job.Apis[pull.Api].Identity;
}
