using Cursiva.Core.Apis;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Runs;

/// <summary>The clients of a job's APIs.</summary>
public sealed class ApiClients : IAsyncDisposable
{
    private readonly Dictionary<string, ApiClient> _clients = new(StringComparer.Ordinal);

    private ApiClients()
    {
    }

    /// <summary>Opens the clients of the APIs that the job pulls from.</summary>
    /// <exception cref="Refusals.RefusedException">A secret or key that will be needed is not there.</exception>
    public static async Task<ApiClients> OpenAsync(Job job, SignIns signIns, SignInServices services, CancellationToken cancel)
    {
        var clients = new ApiClients();
        foreach (var api in job.Pulls.Select(pull => job.Apis[pull.Api]).DistinctBy(api => api.Name))
        {
            var identity = api.Identity is null ? null : job.Identities[api.Identity];
            var tokens = signIns.Of(identity);
            if (tokens is TokenSource source)
                await source.PrepareAsync(cancel);
            clients._clients[api.Name] = await OpenAsync(api, identity, signIns, services, cancel);
        }

        return clients;
    }

    /// <summary>Opens the client of one API as an identity.</summary>
    public static async Task<ApiClient> OpenAsync(Api api, DeclaredIdentity? identity, SignIns signIns, SignInServices services, CancellationToken cancel)
    {
        var sender = services.Senders.For(api.Trust, await signIns.CertificateAsync(identity, cancel));
        return new ApiClient(api, identity, signIns.Of(identity), sender, services.State, services.Backoff, services.Clock, services.Requests);
    }

    public ApiClient Of(Pull pull) => _clients[pull.Api];

    public async ValueTask DisposeAsync()
    {
        foreach (var client in _clients.Values)
            await client.DisposeAsync();
    }
}
