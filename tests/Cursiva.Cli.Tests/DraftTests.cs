using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>From an address to a job, and a request without one, through the built program.</summary>
public sealed class DraftTests : IAsyncLifetime
{
    private readonly TemporaryFolder _folder = new();
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "120", "--client-secret", Job.Secret, "--page-size", "25");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        _folder.Dispose();
        return ValueTask.CompletedTask;
    }

    // The listings of the shipped examples, as they are drafted by their addresses alone.
    [Theory]
    [InlineData("/consignments", "demo/consignments.cursiva.yaml", "consignments", 120)]
    [InlineData("/depots", "demo/consignments.cursiva.yaml", "depots", 12)]
    [InlineData("/tenants", "demo/consignments.cursiva.yaml", "tenants", 200)]
    [InlineData("/vehicles", "incremental/vehicles.cursiva.yaml", "vehicles", 60)]
    [InlineData("/folders/root/children", "tree/papers.cursiva.yaml", "folders", null)]
    public async Task The_listings_of_the_examples_are_drafted_and_run_unchanged(string path, string example, string pull, int? rows)
    {
        var told = JsonDocument.Parse((await DoAsync("draft", _cloud.Address + "/v2" + path, "--out", "job.cursiva.yaml", "--format", "json")).ShouldEndWith(0).Out).RootElement;
        told.GetProperty("requests").GetInt32().ShouldBeLessThanOrEqualTo(12);
        var text = File.ReadAllText(_folder["job.cursiva.yaml"]);
        text.ShouldNotContain(Job.Secret);
        (await DoAsync("check", "job.cursiva.yaml", "--live")).ShouldEndWith(0);
        (await DoAsync("run", "job.cursiva.yaml")).ShouldEndWith(0);
        var name = told.GetProperty("pull").GetString()!;
        var lines = File.ReadAllLines(_folder[$"reports/{name}.csv"]);
        File.Exists(_folder[$"reports/{name}.html"]).ShouldBeTrue();
        if (rows is { } count)
            lines.Length.ShouldBe(count + 1);

        // Where the example has its rows, and what it calls the place of the next page or of its cursor.
        var own = File.ReadAllText(Path.Combine(App.Root, "examples", example)).Split('\n').SkipWhile(line => line != $"  {pull}:").Skip(1).TakeWhile(line => line.StartsWith("    ", StringComparison.Ordinal)).ToList();
        text.ShouldContain($"\n{own.First(line => line.TrimStart().StartsWith("rows:", StringComparison.Ordinal)).TrimEnd()} ");
        if (pull != "consignments")
            text.ShouldContain(own.First(line => line.TrimStart().StartsWith("paging:", StringComparison.Ordinal)).Trim().TrimEnd('}').TrimEnd());
        (await DoAsync("draft", _cloud.Address + "/v2" + path, "--out", "job.cursiva.yaml")).ShouldEndWith(2).Error.ShouldContain("already exists");
        File.ReadAllText(_folder["job.cursiva.yaml"]).ShouldBe(text);
        (await DoAsync("draft", _cloud.Address + "/v2" + path, "--out", "job.cursiva.yaml", "--force")).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_request_without_a_job_signs_in_and_remembers_nothing()
    {
        var depots = (await DoAsync("call", _cloud.Address + "/v2/depots?size=3", "--pointer", "/items", "--table")).ShouldEndWith(0);
        depots.Out.ShouldContain("Northquay");
        Directory.Exists(_folder["state"]).ShouldBeFalse();
        (await DoAsync("call", _cloud.Address + "/v2/by/echo", "--header", "X-Partner=me", "--header-from", "X-Secret=env:BRACKWATER_SECRET")).ShouldEndWith(0).Out.ShouldContain("\"secret_is_right\":\"yes\"");
        (await DoAsync("call", _cloud.Address + "/v2/by/search", "--body", """{"exact":true,"page":{"size":1}}""")).ShouldEndWith(0).Out.ShouldContain("BFX-00000001");
        (await DoAsync("call", _cloud.Address + "/v2/depots", "--keep", "kept.cursiva.yaml")).ShouldEndWith(0).Error.ShouldContain("cursiva check kept.cursiva.yaml --live");
        File.ReadAllText(_folder["kept.cursiva.yaml"]).ShouldContain("rows: /items");
        (await DoAsync("check", "kept.cursiva.yaml", "--live")).ShouldEndWith(0);
        (await DoAsync("call", _cloud.Address + "/v2/depots", "--keep", "kept.cursiva.yaml")).ShouldEndWith(2).Error.ShouldContain("--force");
    }

    [Fact]
    public async Task A_token_that_is_there_already_is_shown_and_one_that_is_missing_is_asked_for()
    {
        var token = (await DoAsync("draft", _cloud.Address + "/v2/depots", "--out", "d.cursiva.yaml")).ShouldEndWith(0);
        token = (await DoAsync("token", "get", "d.cursiva.yaml", "--reveal")).ShouldEndWith(0);
        var bare = token.Out.Split('\n').First(line => line.Contains('.') && line.Trim().Split(' ')[^1].Length > 60).Trim().Split(' ')[^1];
        (await BareAsync(["call", _cloud.Address + "/v2/depots", "--bearer", "env:TOKEN"], ("TOKEN", bare))).ShouldEndWith(0).Out.ShouldContain("Northquay");
        foreach (var command in new[] { "call", "draft" })
        {
            var refused = (await BareAsync([command, _cloud.Address + "/v2/depots"])).ShouldEndWith(5);
            refused.Error.ShouldContain($"the API requires an access token, which {_cloud.Address}/ issues");
            refused.Error.ShouldContain($"add to cursiva {command}: --issuer {_cloud.Address} --client-id ID --secret env:NAME --scope 'consignments.read depots.read'");
        }

        (await BareAsync(["call", _cloud.Address + "/v2/depots", "--issuer", _cloud.Address, "--client-id", "brackwater-demo", "--secret", "env:BRACKWATER_SECRET", "--scope", "consignments.read depots.read"])).ShouldEndWith(0);
        Directory.GetFiles(_folder.Path, "depots*").ShouldBeEmpty();
    }

    [Fact]
    public async Task A_key_or_a_person_signs_in_without_a_job()
    {
        using var keys = new SignInJob("http://127.0.0.1:1", "grant: none");
        var certificate = await keys.CertificateAsync("app", "--password", "env:CLIENT_SECRET");
        using var cloud = await StandIn.StartAsync("--client-certificate", certificate);
        string[] client = ["--issuer", cloud.Address, "--client-id", "brackwater-demo"];
        (await BareAsync(["call", cloud.Address + "/v2/depots", .. client, "--private-key", $"file:{keys["app.p12"]}", "--key-password", "env:CLIENT_SECRET", "--client-auth", "private_key_jwt"], ("CLIENT_SECRET", Job.Secret))).ShouldEndWith(0).Out.ShouldContain("Northquay");

        using var open = await StandIn.StartAsync();
        var ended = await keys.BrowseAsync(open.BrowseAsync, ["call", open.Address + "/v2/depots", "--issuer", open.Address, "--client-id", "brackwater-person", "--device"]);
        ended.ShouldEndWith(0).Out.ShouldContain("Northquay");
        Directory.Exists(_folder["state"]).ShouldBeFalse();
    }

    [Theory]
    [InlineData("draft|{0}/v2/odd/html", 5, "a web page")]
    [InlineData("draft|{0}/v2/odd/status/404", 5, "compare the address")]
    [InlineData("draft|{0}/v2/odd/not-json", 5, "neither JSON")]
    [InlineData("draft|{0}/v2/depots|--header|Authorization=Bearer x", 2, "--header-from Authorization=env:NAME")]
    [InlineData("call|{0}/v2/depots|--keep|k.cursiva.yaml|--header|X-Api-Key=x", 2, "--header-from X-Api-Key=env:NAME")]
    [InlineData("call|{0}/v2/depots|--keep|k.cursiva.yaml|--method|DELETE", 2, "a GET or a POST")]
    [InlineData("call|{0}/v2/depots|--keep|k.cursiva.yaml|--body|a=b", 2, "nothing was sent")]
    [InlineData("draft|nothing.json", 2, "cannot be read")]
    [InlineData("draft", 2, "name what to draft from")]
    [InlineData("draft|{0}/v2/depots|--requests|0", 2, "--requests must be 1 to 100")]
    [InlineData("draft|{0}/v2/depots|--out|depots.yaml", 2, "is not a job-file name")]
    [InlineData("draft|{0}/v2/depots|--secret|hunter2", 2, "must say where the secret is")]
    [InlineData("call|{0}/v2/depots|exchange", 2, "an address is the only argument")]
    [InlineData("call|https://me:pw@api.example/x", 2, "is not a usable address")]
    [InlineData("call|job.cursiva.yaml|--bearer|env:X", 2, "--bearer is only for an address")]
    public async Task What_cannot_be_drafted_or_called_is_told(string line, int code, string said)
    {
        var words = line.Split('|').Select(word => word.Replace("{0}", _cloud.Address)).ToArray();
        var ended = words.Length > 1 && words[1].Contains("/odd/", StringComparison.Ordinal) ? await DoAsync(words) : await BareAsync(words);
        ended.ShouldEndWith(code).Error.ShouldContain(said);
        ended.Error.ShouldNotContain("   at Cursiva");
        Directory.GetFiles(_folder.Path).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_draft_can_be_made_from_what_was_saved()
    {
        (await DoAsync("call", _cloud.Address + "/v2/consignments", "--to", "saved.json", "--trace", "saved.har")).ShouldEndWith(0);
        (await BareAsync(["draft", "saved.json"])).ShouldEndWith(0).Out.ShouldContain("after no request");
        (await BareAsync(["check", "consignments.cursiva.yaml"])).ShouldEndWith(0);
        (await BareAsync(["draft", "saved.har", "--out", "har.cursiva.yaml"])).ShouldEndWith(0);
        (await BareAsync(["check", "har.cursiva.yaml"])).ShouldEndWith(0);
        var shape = (await BareAsync(["shape", "saved.json"])).ShouldEndWith(0).Out;
        shape.ShouldContain("weight_kg");
        shape.ShouldContain("null or date-time");
        JsonDocument.Parse((await BareAsync(["shape", "saved.json", "--schema"])).ShouldEndWith(0).Out).RootElement.GetProperty("$schema").GetString().ShouldBe("https://json-schema.org/draft/2020-12/schema");
        (await BareAsync(["shape", "har.cursiva.yaml"])).ShouldEndWith(2).Error.ShouldContain("cursiva shape har.cursiva.yaml PULL");
    }

    [Fact]
    public async Task The_columns_of_a_job_follow_what_landed()
    {
        (await DoAsync("draft", _cloud.Address + "/v2/consignments", "--out", "job.cursiva.yaml")).ShouldEndWith(0);
        var whole = File.ReadAllLines(_folder["job.cursiva.yaml"]).ToList();
        var less = whole.Where(line => !line.StartsWith("      goods:", StringComparison.Ordinal) && !line.StartsWith("      pieces:", StringComparison.Ordinal)).ToList();
        less.Insert(less.FindIndex(line => line.StartsWith("      id:", StringComparison.Ordinal)), "      gone: text");
        File.WriteAllLines(_folder["job.cursiva.yaml"], less);
        (await DoAsync("draft", "--columns", "job.cursiva.yaml")).ShouldEndWith(2).Error.ShouldContain("no run has landed");
        (await DoAsync("run", "job.cursiva.yaml")).ShouldEndWith(0);
        (await DoAsync("shape", "job.cursiva.yaml", "consignments", "--format", "json")).ShouldEndWith(0).Out.ShouldContain("\"/goods\"");
        var ended = (await DoAsync("draft", "--columns", "job.cursiva.yaml")).ShouldEndWith(0);
        ended.Out.ShouldContain("pieces, goods");
        ended.Out.ShouldContain("no landed row has gone");
        var now = File.ReadAllLines(_folder["job.cursiva.yaml"]);
        now.Where(line => !line.StartsWith("      goods:", StringComparison.Ordinal) && !line.StartsWith("      pieces:", StringComparison.Ordinal)).ShouldBe(less);
        (await DoAsync("check", "job.cursiva.yaml")).ShouldEndWith(0);
        (await DoAsync("draft", "--columns", "job.cursiva.yaml")).ShouldEndWith(0).Out.ShouldContain("nothing is changed");
    }

    private Task<Ended> DoAsync(params string[] arguments)
    {
        string[] signIn = arguments[0] is "call" or "draft" && arguments.Skip(1).Any(argument => argument.StartsWith("http", StringComparison.Ordinal))
            ? ["--token-endpoint", _cloud.Address + "/oauth2/token", "--client-id", "brackwater-demo", "--secret", "env:BRACKWATER_SECRET"] : [];
        return BareAsync([.. arguments, .. signIn]);
    }

    private Task<Ended> BareAsync(string[] arguments, params (string Name, string? Value)[] environment) =>
        App.RunAsync(App.Cursiva, arguments, _folder.Path, [("CURSIVA_STATE", _folder["state"]), ("BRACKWATER_SECRET", Job.Secret), .. environment]);
}
