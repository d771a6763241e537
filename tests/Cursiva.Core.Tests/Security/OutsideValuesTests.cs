using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Apis;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Security;

/// <summary>
/// Every key of the job file that a value of a row can get into is tried with rows that try to get out (promise 12): whatever is sent
/// goes where the job says, has no secret that the job does not name, and stays in its slot. The keys are taken from the list that the
/// reader goes by, so a new one is tried the day it is added.
/// </summary>
public sealed class OutsideValuesTests : IAsyncDisposable
{
    private const string Canary = "canary-000111";

    private static readonly string[] s_shapes =
    [
        "{t.v}", "pre{t.v}post", "https://{t.v}.example/{t.v}", "https://api.example/v2/{t.v}?q={t.v}", "/x/{t.v}", "/x/{+t.v}{?t.v}", "kept:{t.v}", "kept:key-{t.v}", "env:{t.v}", "file:{t.v}", "file:s.json#/{t.v}", "systemd:{t.v}",
    ];

    private static readonly string[] s_values =
    [
        "ok", "env:OTHER", "kept:other", "file:state.key", "systemd:x", "OTHER", "other", "state.key", "../state.key", "..", ".", "%2e%2e", "a/../../admin", "a\r\nX-Evil: 1", "a\nb", "a\0b",
        "\u001b[31mred", "\u202Eevil", "evil.example", "evil.example/", "x@evil.example", "//evil.example/x", "https://evil.example/x", "a b", "a?x=1#y", "", "{t.v}", "{{", "a~1b",
    ];

    // Where each group of keys stands in a job.
    private static readonly (Section Section, string Place)[] s_places =
    [
        (IdentityKeys.Section, "identities/app"), (IdentityKeys.KeySection, "identities/app/private-key"), (IdentityKeys.AssertionSection, "identities/app/assertion"),
        (ApiKeys.ApiSection, "apis/exchange"), (ApiKeys.LimitsSection, "apis/exchange/limits"), (ApiKeys.ProbeSection, "apis/exchange/probe"),
        (PullKeys.Section, "pulls/p"), (PagingKeys.PagingSection, "pulls/p/paging"), (PagingKeys.MoreSection, "pulls/p/paging/more"), .. PagingStyles.All.SelectMany(style => style.Keys).Where(key => key.Inside is not null).Select(key => (key.Inside!, $"pulls/p/paging/{key.Name}")), (RowsKeys.RowsSection, "pulls/p/rows"), (PerKeys.PerSection, "pulls/p/per"), (StrandKeys.OpensSection, "pulls/p/opens"), (PerKeys.WindowSection, "pulls/p/window"),
        (EncryptionKeys.SignInSection, "identities/app/encryption"), (EncryptionKeys.SessionSection, "identities/app/encryption/session-key"), (EncryptionKeys.BodySection, "apis/exchange/encryption"), (SignatureKeys.SignaturesSection, "apis/exchange/signatures"),
        (SignatureKeys.RequestsSection, "apis/exchange/signatures/requests"), (SignatureKeys.AnswersSection, "apis/exchange/signatures/answers"), (SignatureKeys.RowsSection, "pulls/p/signatures/rows"),
        (IncrementalKeys.IncrementalSection, "pulls/p/incremental"), (IncrementalKeys.DeletedSection, "pulls/p/deleted-when"), (StrandKeys.SkipSection, "pulls/p/skip-when"), (StrandKeys.FailSection, "pulls/p/fail-when"), (ExportKeys.ExportSection, "pulls/p/export"), (ExportKeys.FindSection, "pulls/p/export/find"),
    ];

    private static readonly Lazy<string> s_public = new(() =>
    {
        using var pair = System.Security.Cryptography.RSA.Create(2048);
        return pair.ExportSubjectPublicKeyInfoPem();
    });

    private readonly SignInFixture _fixture = new();
    private readonly TemporaryFolder _folder = new();

    public static TheoryData<string, string> Keys()
    {
        var keys = new TheoryData<string, string>();
        foreach (var (section, place) in s_places)
        {
            foreach (var key in section.Keys.Where(key => key.Inside is null || key.Kind is KeyKind.TextOrSection or KeyKind.TextsOrSection or KeyKind.PointerOrSection or KeyKind.PointersOrSection))
                keys.Add(place, key.Name);
        }

        return keys;
    }

    [Fact]
    public void Every_group_of_keys_that_rows_can_get_into_is_tried()
    {
        Section[] elsewhere = [JobKeys.JobSection, JobKeys.SharedSection, JobKeys.RelativeTimeSection, JobKeys.ColumnSection];
        var all = new[] { typeof(JobKeys), typeof(ApiKeys), typeof(IdentityKeys), typeof(EncryptionKeys), typeof(SignatureKeys), typeof(PayloadKeys), typeof(PullKeys), typeof(PagingKeys), typeof(RowsKeys), typeof(PerKeys), typeof(StrandKeys), typeof(IncrementalKeys), typeof(ExportKeys) }.SelectMany(type => type.GetFields()).Where(field => field.FieldType == typeof(Section)).Select(field => (Section)field.GetValue(null)!);
        all.Except(elsewhere).Except(s_places.Select(place => place.Section)).Select(section => section.Name).ShouldBeEmpty();
    }

    [Theory]
    [MemberData(nameof(Keys))]
    public async Task A_row_gets_out_of_no_key(string place, string key)
    {
        _fixture.Variables["OTHER"] = Canary;
        _fixture.Variables["SHARED"] = Convert.ToBase64String(new byte[32]);
        _fixture.Variables["PUBLIC"] = s_public.Value;
        _folder.Write("state.key", Canary);
        _folder.Write("s.json", $$"""{"ok":"fine","kept:other":"{{Canary}}"}""");
        var section = s_places.First(known => known.Place == place).Section;
        foreach (var shape in s_shapes)
        {
            if (Read(Job(place, section.Keys.First(known => known.Name == key), shape)) is not { } job)
                continue;
            foreach (var value in s_values)
                await TryAsync(job, $"{place}/{key}: {shape}", shape, value);
        }
    }

    public async ValueTask DisposeAsync()
    {
        await _fixture.DisposeAsync();
        _folder.Dispose();
    }

    private async Task TryAsync(Job job, string what, string shape, string value)
    {
        var server = new FakeServer((request, _) => FakeServer.Json(request.RequestUri!.AbsolutePath.EndsWith("/token", StringComparison.Ordinal) ? """{"access_token":"token-1","expires_in":600}""" : "[]"));
        var services = _fixture.Services(server) with { Folder = _folder.Path };
        await services.Store.KeepAsync("other", Canary, null, default);
        services = services with { Secrets = new(_fixture.Variables.GetValueOrDefault, _folder.Path, services.Store, services.Redactor, _ => { }) };
        var strand = new Strand("g", StrandValues.Parse($$"""{"t.v":{{System.Text.Json.JsonSerializer.Serialize(value)}}}"""), "{}", false, "");
        try
        {
            using var signIns = new SignIns(services);
            await using var clients = new ApiClients(job, signIns, services);
            var client = await clients.OfAsync(job.Pulls[0], strand.Values.Text, default);
            var requests = await StrandRequests.OpenAsync(job.Pulls[0], client, new Dictionary<string, string>(), strand, value, null, services.Secrets, new Cursiva.Core.Encryption.DocumentSchemas(""), default);
            using var answer = await client.SendAsync(requests.At(null), default);
            if (job.Pulls[0].Export?.Find is { } find)
                (await client.SendAsync(new ApiRequest(HttpMethod.Get, requests.AddressOf(find.Path)), default)).Dispose();
        }
        catch (RefusedException error)
        {
            error.Refusal.ToString().ShouldNotContain(Canary);
        }
        catch (JobMistakesException error)
        {
            error.Message.ShouldNotContain(Canary);
        }

        // The author may let rows choose among kept secrets, or among those of one file.
        var mayChoose = shape.StartsWith("kept:", StringComparison.Ordinal) || shape.StartsWith("file:s.json#", StringComparison.Ordinal);
        for (var i = 0; i < server.Requests.Count; i++)
            Check(server.Requests[i], server.Bodies[i], $"{what} with '{value}'", mayChoose);
    }

    private static void Check(HttpRequestMessage request, string body, string what, bool mayChoose)
    {
        var uri = request.RequestUri!;
        uri.Host.ShouldMatch(@"^[A-Za-z0-9-]+\.example$", what);
        uri.Host.ShouldNotBe("evil.example", what);
        uri.Scheme.ShouldBe("https", what);
        uri.UserInfo.ShouldBeEmpty(what);
        Uri.UnescapeDataString(uri.AbsolutePath).Split('/', '\\').ShouldNotContain("..", what);

        // A link is an address of its own, held to the origin.
        if (uri.Host == "api.example" && !what.StartsWith("pulls/p/link", StringComparison.Ordinal))
            uri.AbsolutePath.ShouldStartWith("/v2", Case.Sensitive, what);
        foreach (var (name, values) in request.Headers.Concat(request.Content?.Headers ?? (IEnumerable<KeyValuePair<string, IEnumerable<string>>>)[]))
        {
            foreach (var value in values)
                value.Any(char.IsControl).ShouldBeFalse($"{what}: {name}");
        }

        if (mayChoose)
            return;
        var basic = request.Headers.Authorization is { Scheme: "Basic", Parameter: { } credentials } ? Encoding.UTF8.GetString(Convert.FromBase64String(credentials)) : "";
        (uri.AbsoluteUri + request.Headers + body + basic).ShouldNotContain(Canary, Case.Sensitive, what);
    }

    private Job? Read(JsonObject job)
    {
        try
        {
            return JobReader.Read(_folder.Write("job.cursiva.yaml", job.ToJsonString()), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
        }
        catch (JobMistakesException)
        {
            return null;
        }
    }

    private static JsonObject Job(string place, Key key, string shape)
    {
        var job = JsonNode.Parse("""
            {
              "cursiva": 1,
              "identities": { "app": { "grant": "client_credentials", "token-endpoint": "https://login.example/token", "client-id": "me", "secret": "env:S" } },
              "apis": { "exchange": { "base": "https://api.example/v2", "identity": "app" } },
              "pulls": { "p": { "per": { "name": "t", "list": [{ "v": "x" }] }, "get": "/x", "rows": "" } }
            }
            """)!.AsObject();
        var at = job;
        foreach (var name in place.Split('/'))
            at = (at[name] ??= new JsonObject()).GetType() == typeof(JsonObject) ? at[name]!.AsObject() : Replace(at, name);
        if (key.Name is "post" or "link")
            at.Remove("get");
        if (key.Name == "body")
            (at["post"], _) = ("/x", at.Remove("get"));
        if (place == "pulls/p/export/find")
        {
            at["get"] = "/list{?submission}";
            at["link"] = "/self";
            job["pulls"]!["p"]!["headers"] = new JsonObject { ["Idempotency-Key"] = "{submission}" };
            shape = key.Name == "get" ? shape + "{?submission}" : shape;
        }

        Prepare(job, place, at);
        if (place == "pulls/p/incremental")
            at["by"] = "/at";
        at[key.Name] = key.Kind switch
        {
            KeyKind.TextMap or KeyKind.TextsMap or KeyKind.Columns => new JsonObject { [key.Name == "also-origins" ? shape : "X-Canary"] = key.Name == "also-origins" ? "signed-in" : shape },
            KeyKind.Texts or KeyKind.Choices or KeyKind.Pointers or KeyKind.SecretSources or KeyKind.Rates => new JsonArray(shape),
            KeyKind.Anything when key.Name == "body" => new JsonObject { ["a"] = shape, ["b"] = new JsonArray(shape) },
            _ => shape,
        };
        return job;
    }

    // What a key of an exchange stands beside; the keys are real ones, so that requests leave.
    private static void Prepare(JsonObject job, string place, JsonObject at)
    {
        if (place.StartsWith("identities/app/encryption", StringComparison.Ordinal))
        {
            var encryption = job["identities"]!["app"]!["encryption"]!.AsObject();
            job["identities"]!["app"]!["token-body"] = "json";
            (encryption["key"], encryption["content"]) = ("env:PUBLIC", "A256GCM");
            if (place.EndsWith("session-key", StringComparison.Ordinal))
                at["send-at"] = "/app_key";
        }
        else if (place.Contains("encryption", StringComparison.Ordinal))
        {
            (at["cipher"], at["key"]) = ("JWE", "env:PUBLIC");
        }
        else if (place.EndsWith("signatures/requests", StringComparison.Ordinal))
        {
            (at["form"], at["key"], at["text"]) = ("hmac-sha256", "env:SHARED", "{method} {path}");
        }
        else if (place.EndsWith("signatures/answers", StringComparison.Ordinal) || place.EndsWith("signatures/rows", StringComparison.Ordinal))
        {
            (at["form"], at["key"], at["at"], at["when-unverified"]) = ("jws", "env:PUBLIC", "/signed", "report");
        }
    }

    private static JsonObject Replace(JsonObject at, string name)
    {
        var made = new JsonObject();
        at[name] = made;
        return made;
    }
}
