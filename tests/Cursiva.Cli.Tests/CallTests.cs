using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>One request by hand, traces, and looking ahead.</summary>
public sealed class CallTests : IAsyncLifetime
{
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "95", "--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task A_call_has_the_identity_headers_and_inputs_of_the_job_and_prints_the_answer()
    {
        using var job = NewJob();
        var ended = (await job.DoAsync(["call", job.Path, "exchange", "/by/echo{?since}", "--header", "X-Partner=me"])).ShouldEndWith(0);
        var row = JsonDocument.Parse(ended.Out).RootElement[0];
        row.GetProperty("query").GetString().ShouldBe("?since=2026-03-02&locale=en");
        row.GetProperty("partner").GetString().ShouldBe("me");
        ended.Error.ShouldContain("status 200, ");
        (await job.DoAsync(["call", job.Path, "exchange", "/by/search", "--post", """{"exact":true,"page":{"size":1}}"""])).ShouldEndWith(0).Out.ShouldContain("BFX-00000001");
        (await job.DoAsync(["call", job.Path, "exchange", "/files/f1/content", "--to", job["f1.txt"]])).ShouldEndWith(0);
        new FileInfo(job["f1.txt"]).Length.ShouldBe(200_000);
    }

    [Fact]
    public async Task The_same_call_can_be_made_as_somebody_else()
    {
        using var job = NewJob();
        var nobody = (await job.DoAsync(["call", job.Path, "exchange", "/me", "--as", "nobody"])).ShouldEndWith(5);
        nobody.Error.ShouldContain("status 401");
        nobody.Error.ShouldContain("no bearer token was sent");
        (await job.DoAsync(["call", job.Path, "exchange", "/me", "--as", "stranger"])).ShouldEndWith(2).Error.ShouldContain("the job has no identity 'stranger'");
        (await job.DoAsync(["call", job.Path, "exchange", "/tenants/T0001/scans", "--as", "tenant-app"])).ShouldEndWith(2).Error.ShouldContain("no value is given for tenant.id");
        (await job.DoAsync(["call", job.Path, "exchange", "/tenants/T0001/scans", "--as", "tenant-app", "--value", "tenant.id=T0001"])).ShouldEndWith(0);
        (await job.DoAsync(["call", job.Path, "exchange", "/tenants/T0002/scans", "--as", "tenant-app", "--value", "tenant.id=T0001"])).ShouldEndWith(5).Error.ShouldContain("issued for another tenant");
        (await job.DoAsync(["call", job.Path, "nowhere", "/me"])).ShouldEndWith(2).Error.ShouldContain("name one of exchange");
        (await job.DoAsync(["call", job.Path, "exchange", "https://evil.example/x"])).ShouldEndWith(5).Error.ShouldContain("a link leaves the API");
    }

    [Fact]
    public async Task An_identity_that_strands_fill_in_is_tried_with_the_values_of_one()
    {
        using var job = NewJob();
        (await job.DoAsync(["token", "get", job.Path, "tenant-app"])).ShouldEndWith(2).Error.ShouldContain("identity 'tenant-app' is filled in for each strand, and no value is given for tenant.id");
        (await job.DoAsync(["token", "get", job.Path, "tenant-app", "--value", "tenant.id=T0001"])).ShouldEndWith(0).Out.ShouldContain("tenant-app (T0001)");
        (await job.DoAsync(["token", "get", job.Path, "tenant-app", "--value", "T0001"])).ShouldEndWith(2).Error.ShouldContain("is not NAME=VALUE");
        (await job.DoAsync(["check", job.Path, "--live"])).ShouldEndWith(0).Out.ShouldContain("filled in for each strand (tenant.id)");
    }

    [Fact]
    public async Task A_trace_has_every_exchange_and_no_secret()
    {
        using var job = NewJob();
        (await job.RunAsync("--trace", job["run.har"])).ShouldEndWith(0);
        var text = await File.ReadAllTextAsync(job["run.har"]);
        foreach (var secret in new[] { Job.Secret, Uri.EscapeDataString(Job.Secret), "Bearer ey", "access_token" })
            text.ShouldNotContain(secret);
        var log = JsonDocument.Parse(text).RootElement.GetProperty("log");
        log.GetProperty("version").GetString().ShouldBe("1.2");
        var entries = log.GetProperty("entries").EnumerateArray().ToList();
        entries.Count.ShouldBe(11);
        entries[0].GetProperty("request").GetProperty("url").GetString().ShouldEndWith("/oauth2/token");
        var page = entries[1];
        page.GetProperty("response").GetProperty("status").GetInt32().ShouldBe(200);
        page.GetProperty("response").GetProperty("content").GetProperty("text").GetString()!.ShouldContain("BFX-00000001");
        page.GetProperty("request").GetProperty("headers").EnumerateArray().Single(header => header.GetProperty("name").GetString() == "Authorization").GetProperty("value").GetString().ShouldBe("[secret]");
        (File.GetUnixFileMode(job["run.har"]) & UnixFileMode.OtherRead).ShouldBe(UnixFileMode.None);
    }

    [Fact]
    public async Task A_dry_run_tells_the_first_requests_and_how_long_it_would_take_and_lands_nothing()
    {
        using var job = NewJob();
        var before = (await job.RunAsync("--dry-run")).ShouldEndWith(0);
        before.Out.ShouldContain($"GET {_cloud.Address}/v2/consignments?size=10");
        before.Out.ShouldContain("By one request, 10 requests: about 3.0 s");
        before.Out.ShouldContain("for each of tenants.csv");
        Directory.GetDirectories(job.State, "landing", SearchOption.AllDirectories).ShouldBeEmpty();
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(1);

        (await job.RunAsync()).ShouldEndWith(0);
        (await job.RunAsync("--dry-run")).ShouldEndWith(0).Out.ShouldContain("By run 1, 10 requests");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(11);
        (await job.RunAsync("--dry-run", "--format", "json")).ShouldEndWith(0).Out.ShouldContain("\"requests\": 10");
    }

    private Job NewJob()
    {
        var job = new Job(_cloud.Address, """
            p: { get: '/consignments?size=10', rows: /items, paging: { cursor: /page/cursor, parameter: cursor, total: /page/total } }
            scans: { per: { name: tenant, file: tenants.csv }, identity: tenant-app, get: '/tenants/{tenant.id}/scans', rows: /items }
            """, "r: { sql: select * from p, write: r.csv }", api: "query-parameters: { locale: en }\n    limits: { at-most: 3 per second }", top: "inputs: { since: 2026-03-02 }");
        job.Yaml = job.Yaml.Replace("apis:", $$"""
              tenant-app:
                grant: client_credentials
                token-endpoint: "{{_cloud.Address}}/tenants/{tenant.id}/oauth2/token"
                client-id: tenant-{tenant.id}
                secret: file:secrets.json#/{tenant.id}
            apis:
            """);
        job.Save();
        File.WriteAllText(job["secrets.json"], $$"""{"T0001":"{{Job.Secret}}-T0001"}""");
        File.WriteAllText(job["tenants.csv"], "id\n");
        return job;
    }
}
