using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Identity;

/// <summary>Answers of token endpoints as they come.</summary>
public sealed class TokenSourceTests : IAsyncDisposable
{
    private readonly SignInFixture _fixture = new();

    public ValueTask DisposeAsync() => _fixture.DisposeAsync();

    [Theory]
    [InlineData("""{"access_token":"token-1","expires_in":600}""", 600)]
    [InlineData("""{"access_token":"token-1","expires_in":"600"}""", 600)]
    [InlineData("""{"access_token":"token-1","expires_in":"soon"}""", 300)]
    [InlineData("""{"access_token":"token-1","expires_in":-5}""", 300)]
    [InlineData("""{"access_token":"token-1"}""", 300)]
    [InlineData("""{"access_token":"e30.eyJpYXQiOjEwMDAsImV4cCI6MTkwMH0."}""", 900)]
    public async Task The_lifetime_is_found_however_it_is_told(string answer, int seconds)
    {
        using var source = new TokenSource(SignInFixture.Identity(), _fixture.Services(new FakeServer((_, _) => FakeServer.Json(answer))));
        (await source.GetAsync(default)).Lifetime.TotalSeconds.ShouldBe(seconds);
    }

    [Fact]
    public async Task A_token_lives_from_when_it_was_asked_for()
    {
        // However long the answer takes on its way, the token's life has begun.
        var spans = new List<TimeSpan>();
        foreach (var underWay in new[] { 0, 40 })
        {
            var asked = _fixture.Clock.GetUtcNow();
            using var source = new TokenSource(SignInFixture.Identity() with { ClientId = $"client-{underWay}" }, _fixture.Services(new FakeServer((_, _) =>
            {
                _fixture.Clock.Pass(TimeSpan.FromSeconds(underWay));
                return FakeServer.Json("""{"access_token":"token-1","expires_in":600}""");
            })));
            spans.Add((await source.GetAsync(default)).RenewAt - asked);
        }

        spans[1].ShouldBe(spans[0]);
    }

    [Theory]
    [InlineData("bearer", "Bearer token-1")]
    [InlineData("BEARER", "Bearer token-1")]
    [InlineData("DPoP-like", "DPoP-like token-1")]
    public async Task The_type_is_taken_in_any_case(string type, string header)
    {
        using var source = new TokenSource(SignInFixture.Identity(), _fixture.Services(new FakeServer((_, _) => FakeServer.Json($$"""{"access_token":"token-1","token_type":"{{type}}"}"""))));
        (await source.GetAsync(default)).Headers.Single().Value.Reveal().ShouldBe(header);
    }

    [Fact]
    public async Task A_successor_is_on_disk_before_the_token_that_came_with_it_is_seen()
    {
        var identity = SignInFixture.Identity(Grants.RefreshToken) with { RefreshToken = SecretSource.TryParse("kept:r") };
        var services = _fixture.Services(new FakeServer((_, number) => FakeServer.Json($$"""{"access_token":"token-{{number}}","refresh_token":"refresh-{{number}}"}""")));
        await services.Store.KeepAsync("r", "refresh-0", null, default);
        using var source = new TokenSource(identity, services);
        (await source.GetFreshAsync(default)).Value.Reveal().ShouldBe("token-1");
        (await services.Store.ReadAsync("r", default)).ShouldBe("refresh-1");

        // A state that cannot be written keeps the token back.
        await _fixture.State.DisposeAsync();
        await Should.ThrowAsync<Exception>(() => source.GetFreshAsync(default));
    }

    [Theory]
    [InlineData(503, 1, "refresh-0")]
    [InlineData(429, 1, "refresh-0")]
    [InlineData(200, 1, "refresh-1")]
    public async Task A_stop_waits_for_the_exchange_of_a_refresh_token_and_not_for_the_next_attempt(int status, int requests, string kept)
    {
        var identity = SignInFixture.Identity(Grants.RefreshToken) with { RefreshToken = SecretSource.TryParse("kept:r") };
        using var stop = new CancellationTokenSource();
        var server = new FakeServer((_, number) =>
        {
            stop.Cancel();
            return status == 200 ? FakeServer.Json("""{"access_token":"token-1","refresh_token":"refresh-1"}""") : FakeServer.Json("{}", status);
        });
        var services = _fixture.Services(server);
        await services.Store.KeepAsync("r", "refresh-0", null, default);
        using var source = new TokenSource(identity, services);
        if (status == 200)
            await source.GetFreshAsync(stop.Token);
        else
            await Should.ThrowAsync<OperationCanceledException>(() => source.GetFreshAsync(stop.Token));
        server.Requests.Count.ShouldBe(requests);
        (await services.Store.ReadAsync("r", default)).ShouldBe(kept);
    }

    [Theory]
    [InlineData("\"client_secret_post\"", true)]
    [InlineData("\"private_key_jwt\",\"client_secret_post\"", true)]
    [InlineData("\"client_secret_post\",\"client_secret_basic\"", false)]
    [InlineData("\"none\"", false)]
    [InlineData(null, false)]
    public async Task The_way_to_show_the_secret_is_learnt_from_the_metadata_where_the_job_does_not_say(string? methods, bool inBody)
    {
        var offered = methods is null ? "" : $",\"token_endpoint_auth_methods_supported\":[{methods}]";
        foreach (var declared in new[] { false, true })
        {
            var server = new FakeServer((request, _) => request.Method == HttpMethod.Get
                ? FakeServer.Json($"{{\"issuer\":\"https://login.example\",\"token_endpoint\":\"https://login.example/t\"{offered}}}")
                : FakeServer.Json("""{"access_token":"token-1"}"""));
            var identity = SignInFixture.Identity() with { Issuer = new Uri("https://login.example"), TokenEndpoint = null, MayLearnClientAuth = !declared };
            using var source = new TokenSource(identity, _fixture.Services(server));
            await source.GetFreshAsync(default);
            server.Bodies[^1].Contains("client_secret=").ShouldBe(inBody && !declared);
            (server.Requests[^1].Headers.Authorization is not null).ShouldBe(!inBody || declared);
            server.Requests.Count(request => request.Method == HttpMethod.Post).ShouldBe(1);
        }
    }

    [Theory]
    [InlineData(-400, -1, "expired on 2026-03-01 00:00Z; nothing was sent")]
    [InlineData(2, 400, "is not valid before 2026-03-04 00:00Z; nothing was sent")]
    public async Task A_certificate_that_is_not_valid_now_is_told_before_anything_is_sent(int from, int until, string told)
    {
        var now = _fixture.Clock.GetUtcNow();
        new CertificateMaker(new Cursiva.Core.Files.Disk()).Make(Path.Combine(_fixture.Folder, "app"), "p256", "CN=app", now.AddDays(from), now.AddDays(until), null, true);
        var server = new FakeServer((_, _) => FakeServer.Json("""{"access_token":"token-1"}"""));
        var identity = SignInFixture.Identity() with { Secrets = [], ClientAuth = [ClientAuths.PrivateKeyJwt], Key = new DeclaredKey(SecretSource.TryParse("file:app.pem")!, null, null, null) };
        using var source = new TokenSource(identity, _fixture.Services(server));
        var refusal = (await Should.ThrowAsync<Cursiva.Core.Refusals.RefusedException>(() => source.GetAsync(default))).Refusal;
        refusal.What.ShouldBe($"the certificate of identity 'app' {told}");
        server.Requests.ShouldBeEmpty();

        // The way out that the message names: the key alone.
        var pem = await File.ReadAllTextAsync(Path.Combine(_fixture.Folder, "app.pem"));
        await File.WriteAllTextAsync(Path.Combine(_fixture.Folder, "app.pem"), pem[..pem.IndexOf("-----BEGIN CERTIFICATE", StringComparison.Ordinal)]);
        using var alone = new TokenSource(identity, _fixture.Services(server));
        (await alone.GetAsync(default)).Value.Reveal().ShouldBe("token-1");
    }

    [Fact]
    public async Task A_wait_at_the_token_endpoint_is_told_with_the_servers_words_and_a_long_one_is_not_begun()
    {
        var server = new FakeServer((_, number) =>
        {
            var answer = FakeServer.Json("""{"error":"slow_down","error_description":"the desk is busy"}""", 429);
            answer.Headers.Add("Retry-After", number == 1 ? "90" : "3600");
            return answer;
        });
        using var source = new TokenSource(SignInFixture.Identity(), _fixture.Services(server));
        var refusal = (await Should.ThrowAsync<Cursiva.Core.Refusals.RefusedException>(() => source.GetAsync(default))).Refusal;
        _fixture.Watch.Warnings.ShouldHaveSingleItem().ShouldBe("identity 'app': the authorization server is tried again in 1 min 30 s (status 429, it said: slow_down: the desk is busy)");
        refusal.What.ShouldContain("asks for a pause of 1 h");
        server.Requests.Count.ShouldBe(2);
    }

    [Fact]
    public async Task A_token_that_somebody_replaced_meanwhile_is_read_again_before_giving_up()
    {
        var identity = SignInFixture.Identity(Grants.RefreshToken) with { RefreshToken = SecretSource.TryParse("kept:r") };
        SignInServices services = null!;
        services = _fixture.Services(new FakeServer((_, number) =>
        {
            if (number > 1)
                return FakeServer.Json("""{"access_token":"token-1","refresh_token":"refresh-9"}""");
            services.Store.KeepAsync("r", "refresh-8", null, default).GetAwaiter().GetResult();
            return FakeServer.Json("""{"error":"invalid_grant"}""", 400);
        }));
        await services.Store.KeepAsync("r", "refresh-7", null, default);
        using var source = new TokenSource(identity, services);
        (await source.GetAsync(default)).Value.Reveal().ShouldBe("token-1");
        (await services.Store.ReadAsync("r", default)).ShouldBe("refresh-9");
    }

    [Fact]
    public async Task Parameters_may_be_secrets_and_go_where_they_are_declared()
    {
        _fixture.Variables["PARTNER"] = "partner-secret";
        var server = new FakeServer((_, _) => FakeServer.Json("""{"access_token":"token-1"}"""));
        using var source = new TokenSource(SignInFixture.Identity() with { TokenParameters = new Dictionary<string, DeclaredValue> { ["resource"] = DeclaredValue.OfText("https://api.example"), ["partner"] = new(Template.OfLiteral("env:PARTNER"), isSource: true) } }, _fixture.Services(server));
        await source.GetAsync(default);
        server.Bodies[0].ShouldBe("grant_type=client_credentials&scope=a+b&resource=https%3A%2F%2Fapi.example&partner=partner-secret");
        _fixture.Redactor.Clean("partner-secret").ShouldBe("[secret]");
    }

    [Fact]
    public async Task A_device_code_is_asked_for_more_slowly_when_the_server_says_so()
    {
        var server = new FakeServer((_, number) => number switch
        {
            1 => FakeServer.Json("""{"device_code":"d","user_code":"U","verification_uri":"https://login.example/d","expires_in":600,"interval":3}"""),
            2 or 4 => FakeServer.Json("""{"error":"authorization_pending"}""", 400),
            3 => FakeServer.Json("""{"error":"slow_down"}""", 400),
            _ => FakeServer.Json("""{"access_token":"token-1","refresh_token":"refresh-1"}"""),
        });
        var identity = SignInFixture.Identity(Grants.DeviceCode) with { DeviceAuthorizationEndpoint = new Uri("https://login.example/device") };
        var start = _fixture.Clock.GetUtcNow();
        (await new PersonSignIn(identity, _fixture.Services(server), new Somebody()).ByDeviceAsync(default)).KeptAs.ShouldNotBeNull();
        (_fixture.Clock.GetUtcNow() - start).TotalSeconds.ShouldBe(3 + 3 + 8 + 8);
    }

    [Fact]
    public async Task A_device_code_that_ends_is_told()
    {
        var server = new FakeServer((_, number) => number == 1
            ? FakeServer.Json("""{"device_code":"d","user_code":"U","verification_uri":"https://login.example/d","expires_in":20,"interval":4}""")
            : FakeServer.Json("""{"error":"authorization_pending"}""", 400));
        var identity = SignInFixture.Identity(Grants.DeviceCode) with { DeviceAuthorizationEndpoint = new Uri("https://login.example/device") };
        var error = await Should.ThrowAsync<RefusedException>(() => new PersonSignIn(identity, _fixture.Services(server), new Somebody()).ByDeviceAsync(default));
        error.Refusal.Diagnosis.ShouldBe("device-expired");
    }

    private sealed class Somebody : IPerson
    {
        public void Visit(Uri address, Uri redirect)
        {
        }

        public void Enter(string code, Uri address, Uri? complete, TimeSpan within) => code.ShouldBe("U");

        public Task<string> PasteAsync(CancellationToken cancel) => throw new InvalidOperationException();
    }
}
