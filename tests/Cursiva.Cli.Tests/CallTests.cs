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
        (await job.DoAsync(["call", job.Path, "exchange", "/by/search", "--body", """{"exact":true,"page":{"size":1}}"""])).ShouldEndWith(0).Out.ShouldContain("BFX-00000001");
        (await job.DoAsync(["call", job.Path, "exchange", "/files/f1/content", "--to", job["f1.txt"]])).ShouldEndWith(0);
        new FileInfo(job["f1.txt"]).Length.ShouldBe(200_000);
    }

    [Fact]
    public async Task The_same_call_can_be_made_as_somebody_else()
    {
        using var job = NewJob();
        var nobody = (await job.DoAsync(["call", job.Path, "exchange", "/me", "--anonymous"])).ShouldEndWith(5);
        nobody.Error.ShouldContain("status 401");
        nobody.Error.ShouldContain("no bearer token was sent");
        (await job.DoAsync(["call", job.Path, "exchange", "/me", "--identity", "stranger"])).ShouldEndWith(2).Error.ShouldContain("the job has no identity 'stranger'");
        (await job.DoAsync(["call", job.Path, "exchange", "/tenants/T0001/scans", "--identity", "tenant-app"])).ShouldEndWith(2).Error.ShouldContain("tenant.id has no value");
        (await job.DoAsync(["call", job.Path, "exchange", "/tenants/T0001/scans", "--identity", "tenant-app", "--value", "tenant.id=T0001"])).ShouldEndWith(0);
        (await job.DoAsync(["call", job.Path, "exchange", "/tenants/T0002/scans", "--identity", "tenant-app", "--value", "tenant.id=T0001"])).ShouldEndWith(5).Error.ShouldContain("issued for another tenant");
        (await job.DoAsync(["call", job.Path, "nowhere", "/me"])).ShouldEndWith(2).Error.ShouldContain("name one of exchange");
        (await job.DoAsync(["call", job.Path, "exchange", "https://evil.example/x"])).ShouldEndWith(5).Error.ShouldContain("a link leaves the API");
    }

    [Fact]
    public async Task Only_the_final_answer_is_printed_whatever_the_attempts_before_said()
    {
        using var cloud = await StandIn.StartAsync("--rows", "95", "--client-secret", Job.Secret, "--fail-every", "2");
        using var job = NewJob(cloud);
        for (var i = 0; i < 4; i++)
        {
            var ended = (await job.DoAsync(["call", job.Path, "exchange", "/consignments?size=1"])).ShouldEndWith(0);
            JsonDocument.Parse(ended.Out).RootElement.GetProperty("items").GetArrayLength().ShouldBe(1);
            ended.Error.ShouldNotContain("status 503");
        }

        (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBeGreaterThan(4);

        // A refusal after all attempts is the final answer, once.
        var refused = (await job.DoAsync(["call", job.Path, "exchange", "/odd/status/503"])).ShouldEndWith(5);
        refused.Error.Split("status 503, ").Length.ShouldBe(3); // the line of the answer, and the request of the refusal
    }

    [Theory]
    [InlineData("GET", null, "")]
    [InlineData("POST", "application/json", """{"a":1}""", "--body", """{"a":1}""")]
    [InlineData("POST", "text/plain; charset=utf-8", "@notes.txt", "--body", "@notes.txt")]
    [InlineData("PATCH", "application/merge-patch+json", """{"a":2}""", "--method", "patch", "--body", """{"a":2}""", "--header", "Content-Type=application/merge-patch+json")]
    [InlineData("DELETE", null, "", "--method", "DELETE")]
    [InlineData("PUT", "application/json", """{"from":"a file"}""", "--method", "PUT", "--body-from", "body.json")]
    [InlineData("POST", "application/x-www-form-urlencoded", "name=Low+Ferry&sign=%26%3D", "--form", "name=Low Ferry", "--form", "sign=&=")]
    public async Task A_call_sends_the_method_and_the_body_that_it_is_told(string method, string? type, string body, params string[] options)
    {
        using var job = NewJob();
        await File.WriteAllTextAsync(job["body.json"], """{"from":"a file"}""");
        var sent = JsonDocument.Parse((await job.DoAsync(["call", job.Path, "exchange", "/odd/sent", .. options])).ShouldEndWith(0).Out).RootElement;
        sent.GetProperty("method").GetString().ShouldBe(method);
        sent.GetProperty("type").GetString().ShouldBe(type);
        sent.GetProperty("body").GetString().ShouldBe(body);
    }

    [Fact]
    public async Task A_multipart_form_has_texts_and_files_and_nothing_in_a_text_stands_for_a_file()
    {
        using var job = NewJob();
        await File.WriteAllTextAsync(job["scan.bin"], "from the file");
        var sent = JsonDocument.Parse((await job.DoAsync(["call", job.Path, "exchange", "/odd/sent", "--part", "note=@scan.bin", "--part-from", "scan=scan.bin"])).ShouldEndWith(0).Out).RootElement;
        sent.GetProperty("type").GetString()!.ShouldStartWith("multipart/form-data; boundary=");
        var body = sent.GetProperty("body").GetString()!;
        body.ShouldContain("name=\"note\"\r\n\r\n@scan.bin");
        body.ShouldContain("name=\"scan\"; filename=\"scan.bin\"");
        body.ShouldContain("\r\n\r\nfrom the file\r\n");
        (await job.DoAsync(["call", job.Path, "exchange", "/odd/sent", "--part-from", "scan=gone.bin"])).ShouldEndWith(2).Error.ShouldContain("the file 'gone.bin' of --part-from cannot be read");
        (await job.DoAsync(["call", job.Path, "exchange", "/odd/sent", "--body", "x", "--form", "a=b"])).ShouldEndWith(2).Error.ShouldContain("--body and --form both give the body");
    }

    [Fact]
    public async Task A_part_of_the_answer_is_printed_bare_or_as_a_table()
    {
        using var job = NewJob();
        (await job.DoAsync(["call", job.Path, "exchange", "/consignments?size=2", "--pointer", "/items/0/reference"])).ShouldEndWith(0).Out.ShouldBe("BFX-00000001\n");
        var table = (await job.DoAsync(["call", job.Path, "exchange", "/consignments?size=2", "--pointer", "/items", "--table"])).ShouldEndWith(0).Out.TrimEnd().Split('\n');
        table.Length.ShouldBe(3);
        table[0].ShouldStartWith("id ");
        table[2].ShouldContain(" BFX-00000002 ");
        var missing = (await job.DoAsync(["call", job.Path, "exchange", "/consignments?size=2", "--pointer", "/rows"])).ShouldEndWith(5);
        missing.Out.ShouldBeEmpty();
        missing.Error.ShouldContain("the answer has nothing at /rows");
        missing.Error.ShouldContain("it has /items, ");
        (await job.DoAsync(["call", job.Path, "exchange", "/consignments?size=2", "--table"])).ShouldEndWith(5).Error.ShouldContain("name the list with --pointer; the answer has /items");
        (await job.DoAsync(["call", job.Path, "exchange", "/consignments", "--pointer", "rows"])).ShouldEndWith(2).Error.ShouldContain("is not a JSON Pointer");

        // Whoever reads on from here must not take a refusal for the part.
        var refused = (await job.DoAsync(["call", job.Path, "exchange", "/odd/refuse?status=404&says=gone", "--pointer", "/items"])).ShouldEndWith(5);
        refused.Out.ShouldBeEmpty();
        refused.Error.ShouldContain("gone");
    }

    [Fact]
    public async Task An_identity_that_strands_fill_in_is_tried_with_the_values_of_one()
    {
        using var job = NewJob();
        (await job.DoAsync(["token", "get", job.Path, "tenant-app"])).ShouldEndWith(2).Error.ShouldContain("identity 'tenant-app' is filled in for each strand, and tenant.id has no value");
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
        foreach (var secret in new[] { Job.Secret, Uri.EscapeDataString(Job.Secret), "Bearer ey", "access_token\\\":\\\"ey" })
            text.ShouldNotContain(secret);
        var log = JsonDocument.Parse(text).RootElement.GetProperty("log");
        log.GetProperty("version").GetString().ShouldBe("1.2");
        var entries = log.GetProperty("entries").EnumerateArray().ToList();
        entries.Count.ShouldBe(11);
        entries[0].GetProperty("request").GetProperty("url").GetString().ShouldEndWith("/oauth2/token");
        entries[0].GetProperty("request").GetProperty("postData").GetProperty("params")[0].GetProperty("value").GetString().ShouldBe("client_credentials");
        entries[0].GetProperty("response").GetProperty("content").GetProperty("text").GetString()!.ShouldContain("\"access_token\":\"[secret]\"");
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
        before.Out.ShouldContain("Estimated from one request: 10 requests in about 3.0 s");
        before.Out.ShouldContain("for each of tenants.csv");
        Directory.GetDirectories(job.State, "landing", SearchOption.AllDirectories).ShouldBeEmpty();
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(1);

        (await job.RunAsync()).ShouldEndWith(0);
        (await job.RunAsync("--dry-run")).ShouldEndWith(0).Out.ShouldContain("Estimated from run 1: 10 requests");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(11);
        (await job.RunAsync("--dry-run", "--format", "json")).ShouldEndWith(0).Out.ShouldContain("\"requests\": 10");
    }

    private Job NewJob() => NewJob(_cloud);

    private static Job NewJob(StandIn cloud)
    {
        var job = new Job(cloud.Address, """
            p: { get: '/consignments?size=10', rows: /items, paging: { cursor: /page/cursor, parameter: cursor, total: /page/total } }
            scans: { per: { name: tenant, file: tenants.csv }, identity: tenant-app, get: '/tenants/{tenant.id}/scans', rows: /items }
            """, "r: { sql: select * from p, write: r.csv }", api: "query: { locale: en }\n    limits: { at-most: 3 per second }", top: "inputs: { since: 2026-03-02 }");
        job.Yaml = job.Yaml.Replace("apis:", $$"""
              tenant-app:
                grant: client_credentials
                token-endpoint: "{{cloud.Address}}/tenants/{tenant.id}/oauth2/token"
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
