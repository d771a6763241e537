using Cursiva.Core.Apis;
using Cursiva.Core.Checks;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>The address of an API may come from the token endpoint's answer, and never leaves what the job declares (promise 4).</summary>
public sealed class TokenBaseTests : IAsyncDisposable
{
    private readonly SignInFixture _fixture = new();
    private FakeServer _server = null!;

    public async ValueTask DisposeAsync() => await _fixture.DisposeAsync();

    [Theory]
    [InlineData("'{token/instance_url}'", "https://*.exchange.example", "https://eu4.exchange.example", "https://eu4.exchange.example/depots/7")]
    [InlineData("'{token/instance_url}/v2'", "https://*.exchange.example", "https://eu4.exchange.example/", "https://eu4.exchange.example/v2/depots/7")]
    [InlineData("'{token/instance_url}/v2/'", "https://eu4.exchange.example", "https://EU4.exchange.example/data", "https://eu4.exchange.example/data/v2/depots/7")]
    [InlineData("'{token/instance_url}'", "https://*.exchange.example:8443", "https://eu4.exchange.example:8443", "https://eu4.exchange.example:8443/depots/7")]
    [InlineData("'https://api.example/accounts/{token/id}'", null, "", "https://api.example/accounts/a%20b/depots/7")]
    public async Task The_base_is_filled_in_with_what_the_answer_says(string given, string? within, string url, string asked)
    {
        await AskAsync(Read(given, within), url);
        _server.Requests[^1].RequestUri!.AbsoluteUri.ShouldBe(asked);
        _server.Requests[^1].Headers.Authorization!.Parameter.ShouldBe("token-1");
    }

    [Theory]
    [InlineData("https://evil.example")]
    [InlineData("https://exchange.example")]
    [InlineData("https://a.b.exchange.example")]
    [InlineData("https://evilexchange.example")]
    [InlineData("https://eu4.exchange.example.evil.example")]
    [InlineData("https://evil.example/eu4.exchange.example")]
    [InlineData("https://eu4.exchange.example@evil.example")]
    [InlineData("https://eu4.exchange.example:8443")]
    [InlineData("http://eu4.exchange.example")]
    [InlineData("https://eu4.exchange.example?x=1")]
    [InlineData("https://eu4.exchange.example#x")]
    [InlineData("//eu4.exchange.example")]
    [InlineData("/v2")]
    [InlineData("")]
    [InlineData("https://evil.example\\\\.exchange.example")]
    [InlineData("file:///etc/passwd")]
    public async Task An_answer_that_leads_elsewhere_is_refused_and_nothing_is_sent_there(string url)
    {
        var job = Read("'{token/instance_url}'", "https://*.exchange.example");
        var refusal = (await Should.ThrowAsync<RefusedException>(() => AskAsync(job, url))).Refusal;
        refusal.What.ShouldContain("base-within: does not allow; nothing was sent there");
        _server.Requests.ShouldHaveSingleItem().RequestUri!.Host.ShouldBe("login.example");
    }

    [Theory]
    [InlineData("..")]
    [InlineData("a/b")]
    public async Task A_segment_stays_one(string id)
    {
        var job = Read("'https://api.example/accounts/{token/id}'", null);
        (await Should.ThrowAsync<RefusedException>(() => AskAsync(job, "", id))).Refusal.What.ShouldContain("for a segment of the base");
        _server.Requests.Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_place_of_the_answer_may_stand_in_the_path_of_a_pull_and_in_a_kept_token()
    {
        var job = Read("https://api.example", null, "/accounts/{token/id}/depots{?deep}", "deep: '{token/data/region}'");
        await AskAsync(job, "");
        _server.Requests[^1].RequestUri!.AbsoluteUri.ShouldBe("https://api.example/accounts/a%20b/depots?deep=north");

        // The next run has the token from its cache, and what came with it.
        await AskAsync(job, "");
        _server.Requests.Count.ShouldBe(1);
        _server.Requests[^1].RequestUri!.AbsoluteUri.ShouldBe("https://api.example/accounts/a%20b/depots?deep=north");
    }

    [Theory]
    [InlineData("'{token/instance_url}'", null, "has no 'base-within'")]
    [InlineData("https://api.example", "https://api.example", "whose base is not from the token endpoint's answer")]
    [InlineData("'https://{token/host}.example'", null, "inside its origin")]
    [InlineData("'{token/instance_url}'", "https://*.example", "is not an origin for base-within:")]
    [InlineData("'{token/instance_url}'", "https://*", "is not an origin for base-within:")]
    [InlineData("'{token/instance_url}'", "https://a.*.exchange.example", "is not an origin for base-within:")]
    [InlineData("'{token/instance_url}'", "https://*.*.exchange.example", "is not an origin for base-within:")]
    [InlineData("'{token/instance_url}'", "http://*.exchange.example", "is not an origin for base-within:")]
    [InlineData("'{token/instance_url}'", "https://*.exchange.example/v2", "is not an origin for base-within:")]
    public void What_would_hold_nothing_is_a_mistake(string given, string? within, string told) =>
        Should.Throw<JobMistakesException>(() => Read(given, within)).Mistakes.ShouldContain(mistake => mistake.Found.Contains(told));

    [Fact]
    public void A_place_of_an_answer_that_nobody_gets_is_a_mistake() =>
        Should.Throw<JobMistakesException>(() => Read("https://api.example", null, "/{token/id}", identity: "none: true")).Mistakes.ShouldContain(mistake => mistake.Found.Contains("but no identity signs in"));

    [Fact]
    public async Task A_live_check_asks_there_with_the_token_and_without()
    {
        _server = new FakeServer((request, _) => request.RequestUri!.Host == "login.example" ? Token("https://eu4.exchange.example", "7") : FakeServer.Json("{}", request.Headers.Authorization is null ? 401 : 200));
        var report = await new LiveCheck(Read("'{token/instance_url}'", "https://*.exchange.example"), _fixture.Services(_server)).CheckAsync(TimeSpan.Zero, (_, _) => { }, default);
        report.Lines.Single(line => line.Step == "anonymous").Says.ShouldBe("without a token it refuses, as it should");
        _server.Requests.Where(request => request.RequestUri!.AbsolutePath == "/me/7").Select(request => request.RequestUri!.Host).ShouldAllBe(host => host == "eu4.exchange.example");
    }

    private async Task AskAsync(Job job, string url, string id = "a b")
    {
        _server = new FakeServer((request, _) => request.RequestUri!.Host == "login.example" ? Token(url, id) : FakeServer.Json("{}"));
        var services = _fixture.Services(_server);
        using var signIns = new SignIns(services);
        await using var clients = new ApiClients(job, signIns, services);
        var client = await clients.OfAsync(job.Pulls[0], _ => null, default);
        var requests = await StrandRequests.OpenAsync(job.Pulls[0], client, new Dictionary<string, string>(), Strand.Only, null, null, services.Secrets, new Cursiva.Core.Encryption.DocumentSchemas(""), default);
        using var answer = await client.SendAsync(requests.At(null), default);
    }

    private static HttpResponseMessage Token(string url, string id) =>
        FakeServer.Json("""{"access_token":"token-1","expires_in":3600,"instance_url":"URL","id":"ID","data":{"region":"north"}}""".Replace("URL", url).Replace("ID", id));

    private Job Read(string given, string? within, string get = "/depots/7", string query = "", string identity = "identity: app")
    {
        var path = Path.Combine(_fixture.Folder, "job.cursiva.yaml");
        File.WriteAllText(path, $$"""
            cursiva: 1
            identities:
              app: { grant: client_credentials, token-endpoint: "https://login.example/token", client-id: me, secret: "env:S" }
            apis:
              exchange:
                base: {{given}}
                {{(within is null ? "" : $"base-within: ['{within}']")}}
                {{(identity == "identity: app" ? identity : "")}}
                timeout: 5s
                probe: { get: '{{(identity == "identity: app" ? "/me/{token/id}" : "/me")}}' }
            pulls:
              depots: { get: '{{get.Replace("{?deep}", "")}}', rows: /items, query: { {{query}} } }
            """);
        return JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
    }
}
