using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Security;

/// <summary>Which origin gets what (promise 4).</summary>
public sealed class OriginTests : IAsyncDisposable
{
    private readonly SignInFixture _fixture = new();
    private readonly TemporaryFolder _folder = new();

    [Theory]
    [InlineData("https://api.example/v2/x", true)]
    [InlineData("https://API.example/other", true)]
    [InlineData("https://files.example/x", true)]
    [InlineData("https://bare.example/x", false)]
    [InlineData("http://api.example/v2/x", null)]
    [InlineData("https://api.example:8443/v2/x", null)]
    [InlineData("https://api.example.evil.example/x", null)]
    [InlineData("https://evil.example/x", null)]
    [InlineData("https://api.example@evil.example/x", null)]
    [InlineData("https://bare.example:444/x", null)]
    public async Task Everything_goes_to_the_API_nothing_but_the_request_to_a_bare_origin_and_no_request_to_another(string address, bool? signedIn)
    {
        var (api, bare) = (new FakeServer((_, _) => FakeServer.Json("[]")), new FakeServer((_, _) => FakeServer.Json("[]")));
        await using var client = Client(api, bare);
        var request = new ApiRequest(HttpMethod.Post, new Uri(address))
        {
            Headers = [new("X-Pull", "pull-secret")],
            OwnHeaders = [new("Range", "bytes=5-")],
            SecretQuery = [new("pull-key", "pull-key-secret")],
            Body = "body-secret"u8.ToArray(),
        };
        if (signedIn is null)
        {
            (await Should.ThrowAsync<RefusedException>(() => client.SendAsync(request, default))).Refusal.What.ShouldContain("a link leaves the API");
            (api.Requests.Count + bare.Requests.Count).ShouldBe(0);
            return;
        }

        using var answer = await client.SendAsync(request, default);
        var sent = (signedIn.Value ? api : bare).Requests.Single();
        (signedIn.Value ? bare : api).Requests.ShouldBeEmpty();
        string[] names = [.. sent.Headers.Select(header => header.Key).Order(StringComparer.Ordinal)];
        if (signedIn.Value)
        {
            names.ShouldBe(["Accept", "Accept-Encoding", "Authorization", "Range", "User-Agent", "X-Api", "X-Pull"]);
            sent.RequestUri!.Query.ShouldBe("?api-key=api-key-secret&pull-key=pull-key-secret");
            answer.ToString();
        }
        else
        {
            names.ShouldBe(["Accept", "Accept-Encoding", "Range", "User-Agent"]);
            sent.RequestUri!.AbsoluteUri.ShouldBe(new Uri(address).AbsoluteUri);
            sent.Content.ShouldBeNull();
        }
    }

    [Theory]
    [InlineData("https://files.example", null)]
    [InlineData("http://127.0.0.1:8100", null)]
    [InlineData("http://files.example", "could be read and changed on the way")]
    [InlineData("ftp://files.example", "is not an origin")]
    [InlineData("file:///etc", "is not an origin")]
    [InlineData("https://me@files.example", "is not an origin")]
    public void Also_origins_are_held_to_the_rule_of_base(string origin, string? mistake)
    {
        var path = _folder.Write("job.cursiva.yaml", $"cursiva: 1\napis: {{ exchange: {{ base: https://api.example, also-origins: {{ \"{origin}\": bare }} }} }}\npulls: {{ p: {{ get: /x, rows: '' }} }}\n");
        if (mistake is null)
            JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch).Apis["exchange"].AlsoOrigins.Count.ShouldBe(1);
        else
            Should.Throw<JobMistakesException>(() => JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch)).Mistakes.Single().Found.ShouldContain(mistake);
    }

    [Theory]
    [InlineData("http://127.0.0.1:1/x", true)]
    [InlineData("http://[::1]:1/x", true)]
    [InlineData("http://localhost:1/x", true)]
    [InlineData("https://api.example/x", false)]
    public void What_is_for_this_machine_goes_through_no_proxy(string address, bool bypassed)
    {
        var proxy = new OutsideProxy(new System.Net.WebProxy("http://proxy.example:3128"));
        proxy.IsBypassed(new Uri(address)).ShouldBe(bypassed);
        proxy.GetProxy(new Uri(address))?.Host.ShouldBe("proxy.example");
        (proxy.GetProxy(new Uri(address)) is null).ShouldBe(bypassed);
        HttpSender.NewHandler().Proxy.ShouldBeOfType<OutsideProxy>();
    }

    public async ValueTask DisposeAsync()
    {
        await _fixture.DisposeAsync();
        _folder.Dispose();
    }

    private ApiClient Client(FakeServer apiServer, FakeServer bareServer)
    {
        var services = _fixture.Services(apiServer);
        var api = new Api("exchange", new Place("job"), new Uri("https://api.example/v2"), null, new Dictionary<string, DeclaredValue>(), new Dictionary<string, DeclaredValue>(), new Limits([], 1), 1, TimeSpan.FromSeconds(5), 1024)
        {
            AlsoOrigins = new Dictionary<string, bool>(StringComparer.OrdinalIgnoreCase) { ["https://files.example"] = true, ["https://bare.example"] = false },
        };
        var access = new ApiAccess(null, new OneToken(), new Companions([new("X-Api", "api-secret")], [new("api-key", "api-key-secret")]), new HttpSender(services.Clock, apiServer), new HttpSender(services.Clock, bareServer));
        return new ApiClient(api, access, services.State, services.Redactor, services.Backoff, services.Clock, services.Requests);
    }

    private sealed class OneToken : ITokens
    {
        public bool IsGood(AccessToken token) => true;

        public Task<AccessToken> GetAsync(CancellationToken cancel) => Task.FromResult(new AccessToken(new("token-1"), [new("Authorization", new("Bearer token-1"))], DateTimeOffset.MaxValue));

        public void Refused(AccessToken token)
        {
        }
    }
}
