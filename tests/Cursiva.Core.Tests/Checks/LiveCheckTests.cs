using Cursiva.Core.Checks;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Checks;

/// <summary>What a live check makes of what servers say: whether waiting helps, whom to ask for what, and which other way gets in.</summary>
public sealed class LiveCheckTests : IAsyncDisposable
{
    private readonly SignInFixture _fixture = new();
    private readonly Searched _searched = new();
    private FakeServer _server = null!;

    public async ValueTask DisposeAsync() => await _fixture.DisposeAsync();

    [Theory]
    [InlineData("{\"error\":\"invalid_client\",\"error_description\":\"the client secret is wrong\"}", 401, false)]
    [InlineData("{\"error\":\"invalid_client\"}", 401, false)]
    [InlineData("{\"error\":\"invalid_client\",\"error_description\":\"the secret has expired\"}", 401, false)]
    [InlineData("{\"error\":\"access_denied\",\"error_description\":\"an administrator has to consent first\"}", 403, true)]
    [InlineData("{\"error\":\"temporarily_unavailable\"}", 400, true)]
    public async Task Only_what_may_pass_is_waited_for(string body, int status, bool waits)
    {
        var rounds = 0;
        var start = _fixture.Clock.GetUtcNow();
        var report = await new LiveCheck(Read(), Services((_, _) => FakeServer.Json(body, status))).CheckAsync(TimeSpan.FromSeconds(60), (_, _) => rounds++, default);
        report.Outcome.ShouldBe(Outcome.SignInRefused);
        (rounds > 0).ShouldBe(waits);
        if (!waits)
            (_fixture.Clock.GetUtcNow() - start).ShouldBeLessThan(TimeSpan.FromSeconds(1));
    }

    [Fact]
    public async Task A_secret_that_is_missing_is_not_waited_for()
    {
        _fixture.Variables.Remove("S");
        var report = await new LiveCheck(Read(), Services((_, _) => throw new InvalidOperationException())).CheckAsync(TimeSpan.FromHours(1), (_, _) => throw new InvalidOperationException(), default);
        report.Outcome.ShouldBe(Outcome.SignInRefused);
        report.ForAdministrator.ShouldBeNull();
    }

    [Fact]
    public async Task What_an_administrator_can_grant_is_asked_for_in_one_paragraph()
    {
        var note = (await CheckAsync(request => request.RequestUri!.AbsolutePath == "/token"
            ? Token("depots.read")
            : FakeServer.Json("""{"message":"the application lacks a permission, see https://admin.brackwater.example/grants/4."}""", 403))).ForAdministrator!;
        note.ShouldStartWith("Our application with the client id my-app signs in at https://login.brackwater.example/token and is refused.");
        note.ShouldContain("The API at https://api.brackwater.example/v2 answered (GET https://api.brackwater.example/v2/me, status 403, attempt 1)");
        note.ShouldContain("Please grant it this permission for its own use, without a person, and give consent if it is needed: consignments.export.");
        note.ShouldEndWith("The server names this page for that: https://admin.brackwater.example/grants/4");
        note.ShouldNotContain("\n");
    }

    [Fact]
    public async Task A_scope_that_the_challenge_names_is_asked_for()
    {
        var note = (await CheckAsync(request =>
        {
            if (request.RequestUri!.AbsolutePath == "/token")
                return Token("consignments.export depots.read");
            var answer = FakeServer.Json("{}", 403);
            answer.Headers.TryAddWithoutValidation("WWW-Authenticate", "Bearer error=\"insufficient_scope\", scope=\"depots.write\"");
            return answer;
        })).ForAdministrator!;
        note.ShouldContain("give consent if it is needed: depots.write.");
    }

    [Fact]
    public async Task A_refused_sign_in_that_lacks_the_consent_asks_for_what_the_job_declares()
    {
        var note = (await CheckAsync(_ => FakeServer.Json("""{"error":"consent_required","error_description":"the administrator has not consented"}""", 400))).ForAdministrator!;
        note.ShouldContain("The sign-in answered (");
        note.ShouldContain("consignments.export, depots.read");
    }

    [Fact]
    public async Task Nothing_is_asked_of_an_administrator_who_cannot_help() =>
        (await CheckAsync(_ => FakeServer.Json("""{"error":"invalid_client","error_description":"the secret is wrong"}""", 401))).ForAdministrator.ShouldBeNull();

    [Theory]
    [InlineData(404, "gone", "without a token the answer is the same, so it does not show whether the API accepts the identity")]
    [InlineData(404, "something else", "without a token nothing is found either")]
    [InlineData(401, "sign in", "without a token it refuses (status 401): the API accepts the identity")]
    [InlineData(200, "here", "without a token the path exists (status 200): the API hides it from this identity")]
    [InlineData(302, "", "without a token there is no answer to compare with")]
    public async Task Not_found_is_compared_with_the_answer_to_nobody(int anonymous, string says, string told)
    {
        var report = await CheckAsync(request => request.RequestUri!.AbsolutePath == "/token" ? Token("consignments.export depots.read")
            : request.Headers.Authorization is not null ? FakeServer.Json("""{"message":"gone"}""", 404)
            : FakeServer.Json($$"""{"message":"{{says}}"}""", anonymous));
        report.Outcome.ShouldBe(Outcome.ApiFailed);
        report.Lines.Single(line => line.Step == "anonymous").Says.ShouldStartWith(told);
    }

    [Fact]
    public async Task The_smallest_change_that_gets_in_is_found()
    {
        var found = await SearchAsync(body => body.Contains("client_secret=") && !body.Contains("scope=") && body.Contains("audience="));
        found["app"].Changes.ShouldBe(["client-auth: client_secret_post", "token-parameters: { audience: consignments } instead of scope:"]);
        _searched.Told.ShouldStartWith("app: at most ");
        Tried().ShouldBeLessThanOrEqualTo(16);
        Tried().ShouldBe(_searched.Tries);
    }

    [Theory]
    [InlineData("client_secret=", "client-auth: client_secret_post")]
    [InlineData("\"grant_type\"", "token-body: json")]
    [InlineData("resource=consignments", "token-parameters: { resource: consignments } instead of scope:")]
    public async Task One_change_comes_before_two(string wanted, string change) =>
        (await SearchAsync(body => body.Contains(wanted)))["app"].Changes.ShouldBe([change]);

    [Fact]
    public async Task A_search_that_finds_nothing_keeps_to_its_bound()
    {
        (await SearchAsync(_ => false)).ShouldBeEmpty();
        Tried().ShouldBe(14); // two proofs, four other changes, and their pairs
    }

    [Fact]
    public async Task A_password_is_shown_twice_at_most()
    {
        _fixture.Variables["P"] = "pass word";
        (await SearchAsync(_ => false, Read("grant: password\n    username: clerk\n    password: env:P"))).ShouldBeEmpty();
        Tried().ShouldBe(2);
    }

    [Fact]
    public async Task A_locked_account_is_left_alone()
    {
        _fixture.Variables["P"] = "pass word";
        var job = Read("grant: password\n    username: clerk\n    password: env:P");
        var services = Services((_, _) => FakeServer.Json("""{"error":"invalid_grant","error_description":"the account is locked after too many failed attempts"}""", 400));
        (await new AccessSearch(job, services, _searched).SearchAsync(await new LiveCheck(job, services).CheckAsync(TimeSpan.Zero, (_, _) => { }, default), default)).ShouldBeEmpty();
        _searched.Told.ShouldContain("app is left: trying again would make things worse");
        _server.Requests.Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_token_for_another_API_is_asked_for_with_the_API_as_its_target()
    {
        var job = Read();
        var services = Services((request, _) => request.RequestUri!.AbsolutePath == "/token"
            ? FakeServer.Json($$"""{"access_token":"{{(_server.Bodies[^1].Contains("resource=https%3A%2F%2Fapi.brackwater.example&") || _server.Bodies[^1].EndsWith("resource=https%3A%2F%2Fapi.brackwater.example") ? "right" : "wrong")}}","expires_in":60}""")
            : FakeServer.Json("""{"message":"the token is for another audience"}""", request.Headers.Authorization!.Parameter == "right" ? 200 : 401));
        var found = await new AccessSearch(job, services, _searched).SearchAsync(await new LiveCheck(job, services).CheckAsync(TimeSpan.Zero, (_, _) => { }, default), default);
        found["app"].Changes.ShouldBe(["token-parameters: { resource: https://api.brackwater.example }"]);
    }

    [Fact]
    public async Task What_no_other_way_changes_is_not_tried()
    {
        var job = Read();
        var services = Services((_, _) => FakeServer.Json("""{"error":"invalid_client","error_description":"the client secret has expired"}""", 401));
        (await new AccessSearch(job, services, _searched).SearchAsync(await new LiveCheck(job, services).CheckAsync(TimeSpan.Zero, (_, _) => { }, default), default)).ShouldBeEmpty();
        _searched.Told.ShouldContain("app is left: no other way would help: the client secret has expired");
        _server.Requests.Count.ShouldBe(1);
    }

    [Theory]
    [InlineData("as this client client_secret_post", "the server names another client authentication", "set client-auth: client_secret_post")]
    [InlineData("method client_secret_basic: the secret is wrong", "the client is known, and the secret is wrong", "")]
    public async Task A_method_that_the_answer_names_and_was_not_used_is_a_cause(string words, string cause, string next)
    {
        var line = (await CheckAsync(_ => FakeServer.Json($$"""{"error":"invalid_client","error_description":"{{words}}"}""", 401))).Lines.Single(line => line.Step == "token");
        line.Refusal!.Cause!.ShouldStartWith(cause);
        line.NextStep!.ShouldStartWith(next);
    }

    [Theory]
    [InlineData("the audience is wrong", 401, "(job.cursiva.yaml:8:12)")]
    [InlineData("no licence for this", 403, "skip-when: [{ status: 403 }]")]
    public async Task A_next_step_names_the_line_to_change_where_it_names_a_key(string words, int status, string end) =>
        (await CheckAsync(request => request.RequestUri!.AbsolutePath == "/token" ? Token("consignments.export depots.read") : FakeServer.Json($$"""{"message":"{{words}}"}""", status)))
            .Lines.Single(line => line.Step == "probe").NextStep!.Replace(_fixture.Folder + "/", "").ShouldEndWith(end);

    [Fact]
    public async Task A_long_pause_of_an_API_is_told_with_the_servers_words()
    {
        var line = (await CheckAsync(request =>
        {
            if (request.RequestUri!.AbsolutePath == "/token")
                return Token("consignments.export depots.read");
            var answer = FakeServer.Json("""{"message":"the exchange is being maintained until 06:00"}""", 503);
            answer.Headers.Add("Retry-After", "5400");
            return answer;
        })).Lines.Single(line => line.Step == "probe");
        line.Says.ShouldContain("the API asks for a pause of 1 h 30 min, longer than longest-pause: 1 h 00 min");
        line.Says.ShouldContain("the exchange is being maintained until 06:00");
        line.Says.ShouldContain("maintained");
        line.Refusal!.Status.ShouldBe(503);
    }

    [Fact]
    public void What_may_pass_is_named_by_entries_that_there_are() =>
        Remedies.Known.Except(Catalogue.Entries.Select(entry => entry.Id)).ShouldBeEmpty();

    private async Task<IReadOnlyDictionary<string, AccessTrial>> SearchAsync(Func<string, bool> isGood, Job? job = null)
    {
        job ??= Read();
        var services = Services((request, _) => request.RequestUri!.AbsolutePath != "/token" ? FakeServer.Json("{}")
            : isGood(_server.Bodies[^1]) ? FakeServer.Json("""{"access_token":"good","expires_in":60}""")
            : FakeServer.Json("""{"error":"invalid_request"}""", 400));
        var report = await new LiveCheck(job, services).CheckAsync(TimeSpan.Zero, (_, _) => { }, default);
        return await new AccessSearch(job, services, _searched).SearchAsync(report, default);
    }

    // The sign-in of the check itself comes first.
    private int Tried() => _server.Requests.Count(request => request.RequestUri!.AbsolutePath == "/token") - 1;

    private Task<LiveReport> CheckAsync(Func<HttpRequestMessage, HttpResponseMessage> answer) =>
        new LiveCheck(Read(), Services((request, _) => answer(request))).CheckAsync(TimeSpan.Zero, (_, _) => { }, default);

    private SignInServices Services(Func<HttpRequestMessage, int, HttpResponseMessage> answer) => _fixture.Services(_server = new FakeServer(answer));

    private static HttpResponseMessage Token(string scope)
    {
        static string Part(string json) => Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes(json)).TrimEnd('=').Replace('+', '-').Replace('/', '_');
        return FakeServer.Json($$"""{"access_token":"{{Part("""{"alg":"RS256"}""")}}.{{Part($$"""{"scope":"{{scope}}"}""")}}.AAAA","token_type":"Bearer","expires_in":3600}""");
    }

    private Job Read(string grant = "grant: client_credentials")
    {
        var path = Path.Combine(_fixture.Folder, "job.cursiva.yaml");
        File.WriteAllText(path, $$"""
            cursiva: 1
            identities:
              app:
                {{grant}}
                token-endpoint: https://login.brackwater.example/token
                client-id: my-app
                secret: env:S
                scope: consignments
                permissions: [consignments.export, depots.read]
            apis:
              exchange:
                base: https://api.brackwater.example/v2
                identity: app
                timeout: 5s
                probe: { get: /me }
            pulls:
              depots: { get: /depots, rows: /items }
            """);
        return JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
    }

    private sealed class Searched : IAccessSearchWatch
    {
        public string Told { get; private set; } = "";

        public int Tries { get; private set; }

        public void Begins(string identity, int signIns, string where) => Told += $"{identity}: at most {signIns} at {where}\n";

        public void Tried(AccessTrial trial, string? refused) => Tries++;

        public void NotTried(string identity, string why) => Told += $"{identity} is left: {why}\n";
    }
}
