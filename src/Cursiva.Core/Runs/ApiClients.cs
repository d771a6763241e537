using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>The clients of a job's APIs. APIs of one identity share its tokens.</summary>
internal sealed class ApiClients : IAsyncDisposable
{
    private readonly HttpSender _sender;
    private readonly Dictionary<string, ClientCredentials> _tokens = new(StringComparer.Ordinal);
    private readonly Dictionary<string, ApiClient> _clients = new(StringComparer.Ordinal);

    /// <exception cref="Refusals.RefusedException">A secret that will be needed is not there.</exception>
    public ApiClients(Job job, RunOptions options, IState state, RunCounters counters)
    {
        _sender = new HttpSender(options.Clock);
        var backoff = new Backoff(options.Random);
        var secrets = new SecretSources(options.Environment, job.Folder, options.Redactor);
        foreach (var api in job.Pulls.Select(pull => job.Apis[pull.Api]).DistinctBy(api => api.Name))
        {
            var identity = api.Identity is null ? null : job.Identities[api.Identity];
            var signsIn = identity is { Grant: DeclaredIdentity.ClientCredentials };
            if (signsIn && !_tokens.ContainsKey(identity!.Name))
            {
                secrets.Read(identity.Secret);
                _tokens[identity.Name] = new ClientCredentials(identity, secrets, options.Redactor, _sender, backoff, options.Clock, counters, counters);
            }

            _clients[api.Name] = new ApiClient(api, identity?.ClientId ?? "", signsIn ? _tokens[identity!.Name] : null, _sender, state, backoff, options.Clock, counters);
        }
    }

    public ApiClient Of(Pull pull) => _clients[pull.Api];

    public async ValueTask DisposeAsync()
    {
        foreach (var client in _clients.Values)
            await client.DisposeAsync();
        foreach (var tokens in _tokens.Values)
            tokens.Dispose();
        _sender.Dispose();
    }
}
