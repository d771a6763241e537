using System.Net;
using System.Net.Http.Headers;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Http;

public sealed class ApiClientTests : IAsyncLifetime
{
    private const string Token = """{"access_token":"t-0001-good","token_type":"bearer","expires_in":"3600"}""";

    private readonly SignInFixture _fixture = new();

    private SilentWatch Watch => _fixture.Watch;

    private QuickClock Clock => _fixture.Clock;

    public ValueTask InitializeAsync() => ValueTask.CompletedTask;

    public ValueTask DisposeAsync() => _fixture.DisposeAsync();

    [Fact]
    public async Task A_request_carries_the_token_and_the_headers_of_the_API()
    {
        var server = new FakeServer((request, _) => FakeServer.Json(request.Method == HttpMethod.Post ? Token : "{}"));
        using var answer = await GetAsync(server, "/depots?x=1");
        server.Requests[1].RequestUri!.AbsoluteUri.ShouldBe("https://api.example/v2/depots?x=1&locale=en");
        server.Requests[1].Headers.Authorization!.ToString().ShouldBe("Bearer t-0001-good");
        server.Requests[1].Headers.GetValues("X-Partner").ShouldBe(["7"]);
        server.Bodies[0].ShouldBe("grant_type=client_credentials&scope=a+b");
        server.Requests[0].Headers.Authorization!.ToString().ShouldBe("Basic " + Convert.ToBase64String("my%3Aid:s+cr%2Bt%25"u8));
    }

    [Fact]
    public async Task Requests_side_by_side_share_one_sign_in()
    {
        var server = new FakeServer((request, _) => FakeServer.Json(request.Method == HttpMethod.Post ? Token : "{}"));
        await using var client = Client(server);
        await Task.WhenAll(Enumerable.Range(0, 20).Select(async _ => (await client.GetAsync(client.Address("/x"), CancellationToken.None)).Dispose()));
        Watch.SignIns.ShouldBe(1);
    }

    [Fact]
    public async Task A_token_is_renewed_before_it_ends()
    {
        var server = new FakeServer((request, _) => FakeServer.Json(request.Method == HttpMethod.Post ? Token : "{}"));
        await using var client = Client(server);
        (await client.GetAsync(client.Address("/x"), CancellationToken.None)).Dispose();
        Clock.Pass(TimeSpan.FromMinutes(57));
        (await client.GetAsync(client.Address("/x"), CancellationToken.None)).Dispose();
        Watch.SignIns.ShouldBe(1);
        Clock.Pass(TimeSpan.FromMinutes(1.5)); // 58.5 of 60 minutes: still good, but not for long
        (await client.GetAsync(client.Address("/x"), CancellationToken.None)).Dispose();
        Watch.SignIns.ShouldBe(2);
    }

    [Fact]
    public async Task A_permission_granted_after_a_token_was_kept_needs_no_waiting()
    {
        var server = new FakeServer((request, number) => request.Method == HttpMethod.Post
            ? FakeServer.Json(Token.Replace("0001", $"{number:D4}"))
            : FakeServer.Json("{}", request.Headers.Authorization!.Parameter == "t-0001-good" && number > 2 ? 403 : 200));
        (await GetAsync(server, "/x")).Dispose();

        // Another process finds the token that was kept; the API wants what was granted since.
        (await GetAsync(server, "/x")).Dispose();
        Watch.SignIns.ShouldBe(2);

        // A fresh token that is refused is refused.
        var never = new FakeServer((request, _) => request.Method == HttpMethod.Post ? FakeServer.Json(Token.Replace("0001", "none")) : FakeServer.Json("{}", 403));
        await Should.ThrowAsync<RefusedException>(() => GetAsync(never, "/x"));
        Watch.SignIns.ShouldBe(3);
        never.Requests.Count(request => request.Method == HttpMethod.Get).ShouldBe(2);
    }

    [Fact]
    public async Task A_token_that_ends_while_a_slot_is_waited_for_is_not_sent()
    {
        // One request in two hours: when the second may leave, the token of the first has ended.
        var server = new FakeServer((request, number) => FakeServer.Json(request.Method == HttpMethod.Post ? Token.Replace("0001", $"{number:D4}") : "{}"));
        await using var client = Client(server, limits: new Limits([new Rate(1, TimeSpan.FromMinutes(119))], 1));
        (await client.GetAsync(client.Address("/x"), CancellationToken.None)).Dispose();
        (await client.GetAsync(client.Address("/x"), CancellationToken.None)).Dispose();
        server.Requests.Where(request => request.Method == HttpMethod.Get).Select(request => request.Headers.Authorization!.Parameter).Distinct().Count().ShouldBe(2);
    }

    [Fact]
    public async Task A_stream_keeps_its_place_among_those_at_once_until_it_is_read_or_dropped()
    {
        var server = new FakeServer((request, _) => FakeServer.Json(request.Method == HttpMethod.Post ? Token : "{}"));
        await using var client = Client(server, limits: new Limits([], 1, AtOnce: 1));
        var stream = await client.SendAsync(new ApiRequest(HttpMethod.Get, client.Address("/stream")) { Streams = true }, CancellationToken.None);
        var next = client.GetAsync(client.Address("/x"), CancellationToken.None);
        await Task.WhenAny(next, Task.Delay(300));
        next.IsCompleted.ShouldBeFalse();
        stream.Dispose();
        (await next).Dispose();
    }

    [Fact]
    public async Task After_a_401_one_fresh_token_is_tried_and_no_more()
    {
        var refused = 0;
        var server = new FakeServer((request, _) => request.Method == HttpMethod.Post ? FakeServer.Json(Token) : ++refused == 1 ? FakeServer.Json("{}", 401) : FakeServer.Json("{}"));
        (await GetAsync(server, "/x")).Dispose();
        Watch.SignIns.ShouldBe(2);

        var always = new FakeServer((request, _) => FakeServer.Json(request.Method == HttpMethod.Post ? Token : """{"code":"no"}""", request.Method == HttpMethod.Post ? 200 : 401));
        var error = await Should.ThrowAsync<RefusedException>(() => GetAsync(always, "/x"));
        always.Requests.Count(request => request.Method == HttpMethod.Get).ShouldBe(2);
        error.Refusal.Outcome.ShouldBe(Outcome.ApiFailed);
        error.Refusal.Cause!.ShouldContain("audience or scope");
        error.Refusal.Quote.ShouldBe("""{"code":"no"}""");
    }

    [Fact]
    public async Task Passing_failures_are_retried_with_growing_random_waits_and_then_told()
    {
        var server = new FakeServer((_, _) => FakeServer.Json("down", 503));
        var error = await Should.ThrowAsync<RefusedException>(() => GetAsync(server, "/x", signsIn: false));
        server.Requests.Count.ShouldBe(6);
        Watch.Retries.Select(delay => delay.TotalSeconds).ShouldBe([0.25, 0.5, 1, 2, 4]); // half of each bound: the test's dice
        error.Refusal.Request!.ShouldContain("attempt 6");
        error.Refusal.NextStep!.ShouldContain("resumes from the last checkpoint");
    }

    [Fact]
    public async Task A_pause_that_an_answer_asks_for_is_kept_to_the_second()
    {
        var server = new FakeServer((_, number) =>
        {
            var answer = FakeServer.Json("{}", number == 1 ? 429 : number == 2 ? 503 : 200);
            answer.Headers.RetryAfter = number == 1 ? new RetryConditionHeaderValue(TimeSpan.FromSeconds(7)) : number == 2 ? new RetryConditionHeaderValue(Clock.GetUtcNow().AddSeconds(90)) : null;
            return answer;
        });
        var start = Clock.GetUtcNow();
        (await GetAsync(server, "/x", signsIn: false)).Dispose();
        (Clock.GetUtcNow() - start).TotalSeconds.ShouldBeInRange(96, 98);
    }

    [Theory]
    [InlineData(400)]
    [InlineData(403)]
    [InlineData(404)]
    public async Task What_will_not_change_is_not_tried_again(int status)
    {
        var server = new FakeServer((_, _) => FakeServer.Json("""{"message":"no"}""", status));
        var error = await Should.ThrowAsync<RefusedException>(() => GetAsync(server, "/x", signsIn: false));
        server.Requests.Count.ShouldBe(1);
        error.Refusal.What.ShouldContain(status.ToString());
        error.Refusal.NextStep.ShouldNotBeNullOrEmpty();
    }

    [Theory]
    [InlineData("https://evil.example/v2/x")]
    [InlineData("http://api.example/v2/x")]
    [InlineData("https://api.example:8443/v2/x")]
    [InlineData("https://api.example.evil.example/v2/x")]
    public async Task Nothing_is_sent_to_another_origin(string address)
    {
        var server = new FakeServer((_, _) => FakeServer.Json(Token));
        await using var client = Client(server);
        var error = await Should.ThrowAsync<RefusedException>(() => client.GetAsync(new Uri(address), CancellationToken.None));
        error.Refusal.What.ShouldContain("leaves the API");
        server.Requests.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_redirect_is_told_and_not_followed()
    {
        var server = new FakeServer((_, _) => new HttpResponseMessage(HttpStatusCode.Redirect) { Headers = { Location = new Uri("https://evil.example/") } });
        var error = await Should.ThrowAsync<RefusedException>(() => GetAsync(server, "/x", signsIn: false));
        error.Refusal.What.ShouldContain("redirects to https://evil.example/");
        server.Requests.Count.ShouldBe(1);
    }

    [Theory]
    [InlineData("""{"error":"invalid_client","error_description":"wrong secret"}""", 401, "the secret is wrong", "invalid_client: wrong secret")]
    [InlineData("""{"error":"invalid_scope"}""", 400, "a scope is misspelt", "invalid_scope")]
    [InlineData("<html>log in</html>", 200, "a web page answered", "status 200, application/json, 19 bytes")]
    [InlineData("""{"token_type":"bearer"}""", 200, "RFC 6749 section 5.1", "members: token_type")]
    [InlineData("nonsense", 404, "not a token endpoint", "status 404, application/json, 8 bytes")]
    public async Task A_refused_sign_in_is_explained_in_the_servers_own_words(string body, int status, string cause, string quote)
    {
        var server = new FakeServer((_, _) => FakeServer.Json(body, status));
        var error = await Should.ThrowAsync<RefusedException>(() => GetAsync(server, "/x"));
        error.Refusal.Outcome.ShouldBe(Outcome.SignInRefused);
        error.Refusal.Cause!.ShouldContain(cause);
        error.Refusal.Quote.ShouldBe(quote);
        error.Refusal.ToString().ShouldNotContain("s cr+t%");
    }

    [Theory]
    [InlineData("https://a.example/v2", "/x", "https://a.example/v2/x")]
    [InlineData("https://a.example/v2/", "/x", "https://a.example/v2/x")]
    [InlineData("https://a.example/v2/", "x", "https://a.example/v2/x")]
    [InlineData("https://a.example/v2", "", "https://a.example/v2")]
    [InlineData("https://a.example/v2?key=1", "/x?y=%2F", "https://a.example/v2/x?key=1&y=%2F")]
    [InlineData("https://a.example", "//b.example/x", "https://a.example/b.example/x")]
    public void A_path_is_appended_and_never_resolved(string @base, string path, string address) =>
        ApiAddress.Of(Declared(@base) with { QueryParameters = new Dictionary<string, DeclaredValue>() }, path).AbsoluteUri.ShouldBe(address);

    [Fact]
    public void A_parameter_is_set_and_the_others_stay_as_they_are() =>
        AddressQuery.With(new Uri("https://a.example/x?a=%20b&cursor=1&c="), "cursor", "x&y=").AbsoluteUri.ShouldBe("https://a.example/x?a=%20b&cursor=x%26y%3D&c=");

    private async Task<Answer> GetAsync(FakeServer server, string path, bool signsIn = true)
    {
        await using var client = Client(server, signsIn);
        return await client.GetAsync(client.Address(path), CancellationToken.None);
    }

    private ApiClient Client(FakeServer server, bool signsIn = true, Limits? limits = null)
    {
        var identity = SignInFixture.Identity();
        var services = _fixture.Services(server);
        return new ApiClient(Declared("https://api.example/v2", limits), new ApiAccess(identity, signsIn ? new TokenSource(identity, services) : null, new Companions([new("X-Partner", "7")], []), services.Senders.For(), services.Senders.For()), services.State, services.Redactor, services.Backoff, services.Clock, services.Requests);
    }

    private static Api Declared(string @base, Limits? limits = null) => new(
        "exchange", new Place("job"), new Uri(@base), "app", new Dictionary<string, DeclaredValue> { ["X-Partner"] = DeclaredValue.OfText("7") }, new Dictionary<string, DeclaredValue> { ["locale"] = DeclaredValue.OfText("en") },
        limits ?? new Limits([], 1), 6, TimeSpan.FromSeconds(5), 1024 * 1024);
}
