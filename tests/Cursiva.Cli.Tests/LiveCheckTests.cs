using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary><c>check --live</c>: whether it passes, and why not.</summary>
public sealed class LiveCheckTests
{
    private const string Client = "grant: client_credentials\nissuer: '{cloud}'\nclient-id: brackwater-demo\nsecret: kept:app";
    private const string Probe = "probe: { get: /me, require: { /id: depot-export } }";

    [Fact]
    public async Task A_job_that_gets_in_is_told_so()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = await KeptAsync(cloud, Client + "\npermissions: [consignments.export, consignments.read]", Probe);
        var ended = (await job.DoAsync(["check", job.Path, "--live"])).ShouldEndWith(0);
        foreach (var text in new[] { "obtained with client_credentials, valid for 1 h 00 min", "the server's clock and this machine's agree", "has consignments.export", "'app' expires in", "GET /me answered with status 200, with /id depot-export", "without a token it refuses, as it should", "Live check passed." })
            ended.Out.ShouldContain(text);
    }

    [Theory]
    [InlineData("permissions: [depots.manage]", Probe, "", 4, "lacks depots.manage")]
    [InlineData("claims: { aud: https://other.example }", Probe, "", 4, "https://other.example is expected")]
    [InlineData("scope: [nonsense]", Probe, "", 4, "scope 'nonsense' is not known")]
    [InlineData("", "probe: { get: /me, require: { /id: somebody-else } }", "", 5, "its /id is \"depot-export\", where somebody-else is required")]
    [InlineData("", "probe: { get: /odd/status/403 }", "", 5, "answered with status 403")]
    [InlineData("", "probe: { get: /open }", "", 0, "the API answers the same without a token")]
    [InlineData("", "", "", 0, "it has no probe:")]
    [InlineData("", Probe, "--clock-ahead 600", 0, "s ahead of this machine's")]
    public async Task What_stands_in_the_way_is_told(string identity, string api, string quirk, int code, string message)
    {
        using var cloud = await StandIn.StartAsync(["--client-secret", Job.Secret, .. quirk.Split(' ', StringSplitOptions.RemoveEmptyEntries)]);
        using var job = await KeptAsync(cloud, Client + "\n" + identity, api);
        (await job.DoAsync(["check", job.Path, "--live"])).ShouldEndWith(code).Out.ShouldContain(message);

        using var json = JsonDocument.Parse((await job.DoAsync(["check", job.Path, "--live", "--format", "json"])).ShouldEndWith(code).Out);
        json.RootElement.GetProperty("lines").EnumerateArray().Any(line => line.GetProperty("says").GetString()!.Contains(message)).ShouldBeTrue();
        json.RootElement.GetProperty("lines").EnumerateArray().Any(line => line.GetProperty("state").GetString() == "failed").ShouldBe(code != 0);
    }

    [Fact]
    public async Task A_server_that_is_not_there_is_told_and_the_API_is_not_asked()
    {
        using var job = new SignInJob("http://127.0.0.1:9", "grant: client_credentials\ntoken-endpoint: '{cloud}/t'\nclient-id: a\nsecret: env:CLIENT_SECRET", Probe);
        var ended = (await job.DoAsync(["check", job.Path, "--live"])).ShouldEndWith(4);
        ended.Out.ShouldContain("connection refused at 127.0.0.1:9");
        ended.Out.ShouldContain("not checked, since identity 'app' could not sign in");
    }

    [Fact]
    public async Task It_keeps_trying_while_a_consent_spreads()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "consent-late");
        using var job = await KeptAsync(cloud, Client, Probe);
        (await job.DoAsync(["check", job.Path, "--live"])).ShouldEndWith(4).Out.ShouldContain("has not been granted what it requests");
        var waited = (await job.DoAsync(["check", job.Path, "--live", "--wait", "2m"])).ShouldEndWith(0);
        waited.Error.ShouldContain("not yet: identity app, token; trying for another");
        (await job.DoAsync(["check", job.Path, "--live", "--wait", "long"])).ShouldEndWith(2);
    }

    [Theory]
    [InlineData("secret-ended", "the client secret has expired", 4)]
    [InlineData("other-proof", "Signed in as identity 'reporting-app' with this change to the job: client-auth: client_secret_post", 4)]
    [InlineData("not-approved", "The server names this page for that: https://exchange.brackwater.example/approvals/brackwater-demo", 4)]
    [InlineData("client-off", "the application is disabled at the server", 4)]
    [InlineData("network-rule", "ask the administrator to allow this machine's outgoing address", 4)]
    [InlineData("sign-ins-limited", "asks for a pause of 40 min 00 s", 4)]
    [InlineData("scope-missing", "add consignments.read.all to scope:, and have it granted", 5)]
    [InlineData("api-off", "ask for it to be enabled: https://exchange.brackwater.example/projects/4711", 5)]
    [InlineData("no-licence", "the tenant has no licence for this", 5)]
    [InlineData("other-audience", "issued for another audience than this API", 5)]
    [InlineData("login-page", "a web page answered that asks a person to sign in", 5)]
    [InlineData("maintenance", "being maintained until 06:00", 5)]
    public async Task The_demo_shows_what_is_made_of_a_refusal(string refusal, string told, int code)
    {
        using var folder = new TemporaryFolder();
        (await App.RunAsync(App.Cursiva, ["demo", "--refusal", refusal, "--rows", "100"], folder.Path, [])).ShouldEndWith(code).Out.ShouldContain(told);
    }

    private static async Task<SignInJob> KeptAsync(StandIn cloud, string identity, string api)
    {
        var job = new SignInJob(cloud.Address, identity, api);
        (await job.DoAsync(["secret", "keep", "app", "--expires", "2199-01-31"], input: Job.Secret)).ShouldEndWith(0);
        return job;
    }
}
