using Cursiva.Core.Apis;
using Cursiva.Core.Drafts;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Runs;

namespace Cursiva.Cli.Commands;

/// <summary>The API behind an address that no job declares, ready to be asked. Nothing of it is remembered.</summary>
internal sealed class AskedApi : IAsyncDisposable
{
    private readonly SignIns _signIns;

    private readonly ChallengeWatch _watch;

    private AskedApi(Job job, SignInServices services, SignIns signIns, ApiClient client, ChallengeWatch watch) =>
        (Job, Services, _signIns, Client, _watch) = (job, services, signIns, client, watch);

    /// <summary>What the API said about signing in when it refused; null for nothing.</summary>
    public string? Challenge => _watch.Challenge;

    /// <summary>The job that stands behind the request.</summary>
    public Job Job { get; }

    public SignInServices Services { get; }

    public ApiClient Client { get; }

    /// <summary>Opens the API of a job that was made of a command line; a person signs in first where that was asked for.</summary>
    /// <param name="handler">What answers requests; null for the network.</param>
    /// <param name="trace">Is told every exchange; null for nobody.</param>
    public static async Task<AskedApi> OpenAsync(
        CommandContext place,
        Job job,
        bool byDevice,
        HttpMessageHandler? handler,
        Core.Http.IExchangeWatch? trace,
        CancellationToken cancel)
    {
        var services = await place.OpenForgetfulAsync(job, handler, cancel);
        var watch = new ChallengeWatch(trace);
        services.Senders.Trace = watch;
        var api = job.Apis[AskedJob.Api];
        var identity = api.Identity is { } name ? job.Identities[name] : null;
        if (byDevice && identity is not null)
            await new PersonSignIn(identity, services, new Person(place.Terminal, opensBrowser: false)).ByDeviceAsync(cancel);
        var signIns = new SignIns(services);
        return new AskedApi(job, services, signIns, await ApiClients.OpenAsync(api, identity, signIns, services, cancel), watch);
    }

    public async ValueTask DisposeAsync()
    {
        await Client.DisposeAsync();
        _signIns.Dispose();
    }
}
