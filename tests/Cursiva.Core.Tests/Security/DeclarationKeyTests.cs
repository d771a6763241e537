using System.Text.Json.Nodes;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Security;

/// <summary>What belongs to one declaration is never used for another (promise 13), whichever key they differ in.</summary>
public sealed class DeclarationKeyTests : IAsyncDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly SignInFixture _fixture = new();

    // Another value than that of the base job, for each key. A new key without one fails the test until it has one.
    private static readonly Dictionary<string, string> s_values = new(StringComparer.Ordinal)
    {
        ["identities/app/grant"] = "\"none\"",
        ["identities/app/issuer"] = "\"https://other.example\"",
        ["identities/app/token-endpoint"] = "\"https://other.example/token\"",
        ["identities/app/authorization-endpoint"] = "\"https://other.example/a\"",
        ["identities/app/device-authorization-endpoint"] = "\"https://other.example/d\"",
        ["identities/app/introspection-endpoint"] = "\"https://other.example/i\"",
        ["identities/app/revocation-endpoint"] = "\"https://other.example/r\"",
        ["identities/app/jwks-uri"] = "\"https://other.example/j\"",
        ["identities/app/trust"] = "\"other.pem\"",
        ["identities/app/client-id"] = "\"other\"",
        ["identities/app/client-auth"] = "\"client_secret_post\"",
        ["identities/app/secret"] = "\"env:OTHER\"",
        ["identities/app/username"] = "\"other\"",
        ["identities/app/password"] = "\"env:OTHER\"",
        ["identities/app/refresh-token-lives"] = "\"5d\"",
        ["identities/app/refresh-token"] = "\"kept:other\"",
        ["identities/app/scope"] = "[\"other\"]",
        ["identities/app/token-parameters"] = "{\"other\":\"x\"}",
        ["identities/app/authorization-parameters"] = "{\"other\":\"x\"}",
        ["identities/app/token-body"] = "\"json\"",
        ["identities/app/redirect-uri"] = "\"https://other.example/in\"",
        ["identities/app/token-at"] = "\"/other\"",
        ["identities/app/header"] = "\"X-Other\"",
        ["identities/app/scheme"] = "\"Other\"",
        ["identities/app/headers-beside"] = "{\"X-Other\":\"x\"}",
        ["identities/app/token-headers"] = "{\"X-Other\":\"x\"}",
        ["identities/app/token-ends-at"] = "\"/other\"",
        ["identities/app/encryption/key"] = "\"env:OTHER\"",
        ["identities/app/encryption/key-id"] = "\"other\"",
        ["identities/app/encryption/algorithm"] = "\"RSA1_5\"",
        ["identities/app/encryption/members"] = "[\"/other\"]",
        ["identities/app/encryption/at"] = "\"/other\"",
        ["identities/app/encryption/content"] = "\"A128GCM\"",
        ["identities/app/encryption/base64-first"] = "true",
        ["identities/app/encryption/answer-at"] = "\"/other\"",
        ["identities/app/encryption/session-key/bytes"] = "16",
        ["identities/app/encryption/session-key/send-at"] = "\"/other\"",
        ["identities/app/encryption/session-key/send-as"] = "\"base64\"",
        ["identities/app/encryption/session-key/answer-at"] = "\"/other\"",
        ["identities/app/encryption/session-key/wrapped"] = "\"AES-256-GCM\"",
        ["identities/app/encryption/session-key/ends-at"] = "\"/other\"",
        ["apis/exchange/encryption/cipher"] = "\"AES-256-GCM\"",
        ["apis/exchange/encryption/key"] = "\"env:OTHER\"",
        ["apis/exchange/encryption/key-id"] = "\"other\"",
        ["apis/exchange/encryption/open-with"] = "\"env:OTHER\"",
        ["apis/exchange/encryption/key-password"] = "\"env:OTHER\"",
        ["apis/exchange/encryption/algorithm"] = "\"RSA1_5\"",
        ["apis/exchange/encryption/content"] = "\"A128GCM\"",
        ["apis/exchange/encryption/request-at"] = "\"/other\"",
        ["apis/exchange/encryption/members"] = "[\"/other\"]",
        ["apis/exchange/encryption/answer-at"] = "\"/other\"",
        ["apis/exchange/encryption/key-at"] = "\"/other\"",
        ["apis/exchange/encryption/base64-first"] = "true",
        ["apis/exchange/encryption/by-line"] = "true",
        ["apis/exchange/encryption/refused-when"] = "{\"/other\":\"x\"}",
        ["apis/exchange/signatures/requests/form"] = "\"jws-detached\"",
        ["apis/exchange/signatures/requests/key"] = "\"env:OTHER\"",
        ["apis/exchange/signatures/requests/key-id"] = "\"other\"",
        ["apis/exchange/signatures/requests/key-password"] = "\"env:OTHER\"",
        ["apis/exchange/signatures/requests/algorithm"] = "\"rsa-pss-sha512\"",
        ["apis/exchange/signatures/requests/header"] = "\"X-Other\"",
        ["apis/exchange/signatures/requests/covers"] = "[\"@path\"]",
        ["apis/exchange/signatures/requests/text"] = "\"{body}\"",
        ["apis/exchange/signatures/requests/headers-beside"] = "{\"X-Other\":\"{nonce}\"}",
        ["apis/exchange/signatures/requests/encoding"] = "\"hex\"",
        ["apis/exchange/signatures/answers/form"] = "\"http-message\"",
        ["apis/exchange/signatures/answers/key"] = "\"env:OTHER\"",
        ["apis/exchange/signatures/answers/key-id"] = "\"other\"",
        ["apis/exchange/signatures/answers/at"] = "\"/other\"",
        ["apis/exchange/signatures/answers/header"] = "\"X-Other\"",
        ["apis/exchange/signatures/answers/payload-at"] = "\"/other\"",
        ["apis/exchange/signatures/answers/issuer"] = "\"other\"",
        ["apis/exchange/signatures/answers/covers"] = "[\"@status\"]",
        ["apis/exchange/signatures/answers/when-unverified"] = "\"report\"",
        ["apis/exchange/signatures/answers/by"] = "\"other\"",
        ["identities/app/permissions"] = "[\"other\"]",
        ["identities/app/claims"] = "{\"aud\":\"other\"}",
        ["identities/app/private-key/private"] = "\"file:other.p12\"",
        ["identities/app/private-key/certificate"] = "\"other.crt\"",
        ["identities/app/private-key/password"] = "\"env:OTHER\"",
        ["identities/app/private-key/key-id"] = "\"other\"",
        ["identities/app/assertion/audience"] = "\"other\"",
        ["identities/app/assertion/issuer"] = "\"other\"",
        ["identities/app/assertion/subject"] = "\"other\"",
        ["identities/app/assertion/lifetime"] = "\"4m\"",
        ["identities/app/assertion/algorithm"] = "\"ES384\"",
        ["identities/app/assertion/x5c"] = "true",
        ["identities/app/assertion/claims"] = "{\"other\":\"x\"}",
        ["apis/exchange/base"] = "\"https://other.example/v2\"",
        ["apis/exchange/base-within"] = "[\"https://*.exchange.example\"]",
        ["apis/exchange/identity"] = "\"second\"",
        ["apis/exchange/headers"] = "{\"X-Other\":\"x\"}",
        ["apis/exchange/query"] = "{\"other\":\"x\"}",
        ["apis/exchange/attempts"] = "3",
        ["apis/exchange/timeout"] = "\"7s\"",
        ["apis/exchange/connect-timeout"] = "\"7s\"",
        ["apis/exchange/idle-timeout"] = "\"7s\"",
        ["apis/exchange/http"] = "\"2\"",
        ["apis/exchange/largest-page"] = "7",
        ["apis/exchange/largest-file"] = "7",
        ["apis/exchange/longest-pause"] = "\"7m\"",
        ["apis/exchange/zone"] = "\"Europe/Oslo\"",
        ["apis/exchange/also-origins"] = "{\"https://other.example\":\"bare\"}",
        ["apis/exchange/trust"] = "\"other.pem\"",
        ["apis/exchange/limits/at-most"] = "[\"7 per second\"]",
        ["apis/exchange/limits/at-once"] = "7",
        ["apis/exchange/limits/use"] = "\"70%\"",
        ["apis/exchange/probe/get"] = "\"/other\"",
        ["apis/exchange/probe/require"] = "{\"/other\":\"x\"}",
    };

    public static TheoryData<string> Keys() => [.. new (Section Section, string Place)[]
        {
            (IdentityKeys.Section, "identities/app"), (IdentityKeys.KeySection, "identities/app/private-key"), (IdentityKeys.AssertionSection, "identities/app/assertion"),
            (EncryptionKeys.SignInSection, "identities/app/encryption"), (EncryptionKeys.SessionSection, "identities/app/encryption/session-key"), (EncryptionKeys.BodySection, "apis/exchange/encryption"),
            (SignatureKeys.RequestsSection, "apis/exchange/signatures/requests"), (SignatureKeys.AnswersSection, "apis/exchange/signatures/answers"),
            (ApiKeys.ApiSection, "apis/exchange"), (ApiKeys.LimitsSection, "apis/exchange/limits"), (ApiKeys.ProbeSection, "apis/exchange/probe"),
        }.SelectMany(group => group.Section.Keys.Where(key => key.Inside is null).Select(key => $"{group.Place}/{key.Name}"))];

    [Theory]
    [MemberData(nameof(Keys))]
    public void Two_jobs_that_differ_in_one_key_share_nothing(string key)
    {
        s_values.ShouldContainKey(key);
        KeyOf(Job(key, s_values[key])).ShouldNotBe(KeyOf(key == BaseWithin ? Job(key, "[\"https://eu.exchange.example\"]") : Job(null, null, key)));
        KeyOf(Job(key, s_values[key])).ShouldBe(KeyOf(Job(key, s_values[key])));
    }

    [Fact]
    public void Parts_can_be_told_apart_again()
    {
        DeclarationKey.Of(["a, b", "c"]).ShouldNotBe(DeclarationKey.Of(["a", "b, c"]));
        DeclarationKey.Of(["a\0b", "c"]).ShouldNotBe(DeclarationKey.Of(["a", "b\0c"]));
        DeclarationKey.Of([null, ""]).ShouldNotBe(DeclarationKey.Of(["", null]));
    }

    [Fact]
    public async Task Headers_and_parameters_of_one_tenant_go_to_no_other()
    {
        var server = new FakeServer((_, _) => FakeServer.Json("[]"));
        var services = _fixture.Services(server);
        var job = Read("""
            { "cursiva": 1,
              "apis": { "exchange": { "base": "https://api.example", "timeout": "5s", "headers": { "X-Tenant": "{t.v}" }, "query": { "tenant": "{t.v}" } } },
              "pulls": { "p": { "per": { "name": "t", "list": [{ "v": "x" }] }, "get": "/x", "rows": "" } } }
            """);
        using var signIns = new SignIns(services);
        await using var clients = new ApiClients(job, signIns, services);
        foreach (var tenant in new[] { "north", "south", "north" })
        {
            var client = await clients.OfAsync(job.Pulls[0], _ => tenant, default);
            using var answer = await client.GetAsync(client.Address("/x"), default);
        }

        // A request may be repeated where the machine is busy: the clock of these tests is a quick one.
        var sent = server.Requests.ConvertAll(request => request.Headers.GetValues("X-Tenant").Single() + request.RequestUri!.Query);
        sent.Where((request, i) => i == 0 || request != sent[i - 1]).ShouldBe(["north?tenant=north", "south?tenant=south", "north?tenant=north"]);
    }

    [Fact]
    public async Task A_job_with_another_secret_gets_in_by_nobody_elses_token()
    {
        var server = new FakeServer((request, _) => FakeServer.Json(Convert.ToBase64String("my%3Aid:right"u8) == request.Headers.Authorization!.Parameter ? """{"access_token":"token-1","expires_in":600}""" : """{"error":"invalid_client"}""", Convert.ToBase64String("my%3Aid:right"u8) == request.Headers.Authorization!.Parameter ? 200 : 401));
        _fixture.Variables["S"] = "right";
        using (var good = new TokenSource(SignInFixture.Identity(), _fixture.Services(server)))
            (await good.GetAsync(default)).Value.Reveal().ShouldBe("token-1");
        using (var again = new TokenSource(SignInFixture.Identity(), _fixture.Services(server)))
            (await again.GetAsync(default)).Value.Reveal().ShouldBe("token-1");
        server.Requests.Count.ShouldBe(1);

        _fixture.Variables["S"] = "guessed";
        using var other = new TokenSource(SignInFixture.Identity(), _fixture.Services(server));
        await Should.ThrowAsync<RefusedException>(() => other.GetAsync(default));
        server.Requests.Count.ShouldBe(2);
    }

    public async ValueTask DisposeAsync()
    {
        await _fixture.DisposeAsync();
        _folder.Dispose();
    }

    private static string KeyOf(Job job) => DeclarationKey.Of([DeclarationKey.Of(job.Apis["exchange"]), DeclarationKey.Of(job.Identities[job.Apis["exchange"].Identity!])]);

    private const string BaseWithin = "apis/exchange/base-within";

    // Some keys are for one grant alone.
    private static string GrantFor(string key) => key.EndsWith("assertion/issuer", StringComparison.Ordinal) || key.EndsWith("subject", StringComparison.Ordinal) || key.EndsWith("assertion/claims", StringComparison.Ordinal) ? Grants.JwtBearer : "password";

    private Job Job(string key, string value) => Job(key, value, key);

    // What a key of an exchange stands beside.
    private static void Prepare(JsonObject job, string about)
    {
        var (identity, api) = (job["identities"]!["app"]!.AsObject(), job["apis"]!["exchange"]!.AsObject());
        if (about.StartsWith("identities/app/encryption", StringComparison.Ordinal))
        {
            (identity["token-body"], identity["encryption"]) = ("json", new JsonObject { ["key"] = "env:K" });
            if (about.Contains("session-key", StringComparison.Ordinal))
                identity["encryption"]!["session-key"] = new JsonObject { ["send-at"] = "/app_key" };
        }
        else if (about.StartsWith("apis/exchange/encryption", StringComparison.Ordinal))
        {
            api["encryption"] = new JsonObject { ["cipher"] = about.EndsWith("key-at", StringComparison.Ordinal) ? "AES-256-CBC" : "JWE", ["key"] = "env:K" };
        }
        else if (about.StartsWith("apis/exchange/signatures", StringComparison.Ordinal))
        {
            var isHmac = !about.EndsWith("/form", StringComparison.Ordinal);
            var requests = new JsonObject { ["form"] = isHmac ? "hmac-sha256" : "http-message", ["key"] = "env:K" };
            if (isHmac)
                requests["text"] = "{method}";
            api["signatures"] = new JsonObject { ["requests"] = requests, ["answers"] = new JsonObject { ["form"] = "jws", ["key"] = "env:K" } };
        }
    }

    private Job Job(string? key, string? value, string about)
    {
        var job = JsonNode.Parse("""
            {
              "cursiva": 1,
              "identities": {
                "app": {
                  "grant": "password", "token-endpoint": "https://login.example/token", "client-id": "me", "secret": "env:S", "username": "clerk", "password": "env:P",
                  "private-key": { "private": "file:app.p12" }, "assertion": { "lifetime": "2m" }
                },
                "second": { "grant": "none" }
              },
              "apis": { "exchange": { "base": "https://api.example/v2", "identity": "app", "limits": { "at-most": "5 per second" }, "probe": { "get": "/me" } } },
              "pulls": { "p": { "get": "/x", "rows": "" } }
            }
            """)!.AsObject();
        job["identities"]!["app"]!["grant"] = GrantFor(about);
        Prepare(job, about);
        if (key == BaseWithin)
            job["apis"]!["exchange"]!["base"] = "{token/url}";
        if (key is not null)
        {
            var at = job;
            var names = key.Split('/');
            foreach (var name in names[..^1])
                at = at[name]!.AsObject();
            at[names[^1]] = JsonNode.Parse(value!);
        }

        return Read(job.ToJsonString());
    }

    private Job Read(string yaml) => JobReader.Read(_folder.Write("job.cursiva.yaml", yaml), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
}
