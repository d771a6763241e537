using System.Net;
using System.Net.Sockets;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Whatever goes wrong on the way: all rows arrive, once, or the run says what happened.</summary>
public sealed class FaultTests
{
    [Theory]
    [InlineData("reset/5", 0)]
    [InlineData("cut/5", 0)]
    [InlineData("truncate/5", 0)]
    [InlineData("html/5", 0)]
    [InlineData("busy/9", 0)]
    [InlineData("slow-down/9", 0)]
    [InlineData("stall/12", 0)]
    [InlineData("drip/12", 0)]
    public async Task A_fault_in_the_middle_loses_and_doubles_nothing(string fault, int code)
    {
        using var cloud = await StandIn.StartAsync("--rows", "400", "--fault", fault, "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "p: { get: '/consignments?size=20', rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }", "all: { sql: select * from p, write: all.jsonl }", api: "timeout: 2s\n    idle-timeout: 700ms\n    attempts: 8");
        var ended = (await job.RunAsync("--format", "json")).ShouldEndWith(code);
        var told = JsonDocument.Parse(ended.Out).RootElement;
        told.GetProperty("retries").GetInt32().ShouldBeGreaterThan(0);

        // Those that were broken off count, too; the one more is the sign-in, of which the API knows nothing.
        told.GetProperty("requests").GetInt32().ShouldBe((await cloud.StatisticsAsync()).GetProperty("requests").GetInt32() + 1);
        File.ReadAllLines(job["reports/all.jsonl"]).Select(line => JsonDocument.Parse(line).RootElement.GetProperty("reference").GetString())
            .ShouldBe(Enumerable.Range(1, 400).Select(n => $"BFX-{n:D8}"));
    }

    [Fact]
    public async Task A_server_that_lets_nobody_in_is_not_waited_for_longer_than_the_job_says()
    {
        // A queue of one that is full: the kernel leaves whoever comes then without an answer.
        using var full = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
        full.Bind(new IPEndPoint(IPAddress.Loopback, 0));
        full.Listen(0);
        using var first = new TcpClient();
        await first.ConnectAsync((IPEndPoint)full.LocalEndPoint!);

        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "p: { get: /x, rows: /items }", api: "attempts: 1\n    connect-timeout: 300ms");
        job.Yaml = job.Yaml.Replace(cloud.Address + "/v2", $"http://{full.LocalEndPoint}");
        job.Save();
        (await job.RunAsync()).ShouldEndWith(5).Error.ShouldContain("no connection within connect-timeout:");
    }

    [Fact]
    public async Task An_API_that_is_down_is_not_hammered_by_many_strands()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "40", "--fault", "reset/2", "--fail-every", "2", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "scans: { per: { name: t, file: t.csv }, get: '/tenants/{t.id}/scans', rows: /items, parallel: 20 }", api: "attempts: 4");
        await File.WriteAllTextAsync(job["t.csv"], "id\n" + string.Concat(Enumerable.Range(1, 40).Select(n => $"T{n:D4}\n")));
        var ended = (await job.RunAsync()).ShouldEndWith(5);
        ended.Error.ShouldContain(" requests in a row, and was given up");

        // Without the breaker each of 20 strands would spend its four attempts.
        (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBeLessThan(40);
        (await job.RunAsync()).Error.ShouldContain("resuming run 1");
    }

    [Fact]
    public async Task Every_failure_names_the_request_it_was()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "p: { get: /odd/status/500, rows: /items }", api: "attempts: 2");
        var ended = (await job.RunAsync()).ShouldEndWith(5);
        ended.Error.ShouldContain($"request:  GET {cloud.Address}/v2/odd/status/500, status 500, attempt 2");
        ended.Error.ShouldContain("X-Correlation-Id ");
    }

    [Fact]
    public async Task A_declared_number_of_requests_at_once_holds_for_two_processes()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "60", "--latency", "30", "--jitter", "30", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "t: { get: '/tenants?size=100', rows: /items }\nscans: { per: t, get: '/tenants/{t.id}/scans?size=30', rows: /items, parallel: 10, skip-when: [{ status: 403 }] }", api: "limits: { at-once: 4 }");
        File.Copy(job.Path, job["other.cursiva.yaml"]);
        var both = await Task.WhenAll(job.RunAsync(), job.DoAsync(["run", job["other.cursiva.yaml"]]));
        both.ShouldAllBe(ended => ended.Code == 0, both[0].All + both[1].All);
        (await cloud.StatisticsAsync()).GetProperty("most_at_once").GetInt32().ShouldBeInRange(2, 4);
    }

    [Fact]
    public async Task Several_windows_and_a_share_of_them_are_kept()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "50", "--limit", "16/1", "--limit", "24/3", "--latency", "4", "--jitter", "40", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "t: { get: '/tenants?size=100', rows: /items }\nscans: { per: t, get: '/tenants/{t.id}/scans?size=30', rows: /items, skip-when: [{ status: 403 }] }", api: "limits: { at-most: [20 per second, 30 per 3s], use: 80% }");
        (await job.RunAsync()).ShouldEndWith(0);
        var seen = await cloud.StatisticsAsync();
        seen.GetProperty("breaches").GetInt32().ShouldBe(0);
        seen.GetProperty("windows")[1].GetProperty("most").GetInt32().ShouldBe(24);
    }

    [Fact]
    public async Task A_wait_that_would_pass_the_deadline_ends_the_run_now_and_the_next_one_goes_on()
    {
        using var cloud = await StandIn.StartAsync("--rows", "200", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "p: { get: '/consignments?size=10', rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }", "all: { sql: select * from p, write: all.jsonl }", api: "limits: { at-most: 12 per 20s }");
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var ended = (await job.RunAsync("--deadline", "10s")).ShouldEndWith(7);
        clock.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(9));
        ended.Error.ShouldContain("for the limit of 12 per 20 s would pass the deadline");
        ended.Error.ShouldContain($"cursiva run {job.Path}");
        (await job.RunAsync()).ShouldEndWith(0).Error.ShouldContain("resuming run 1");
        File.ReadAllLines(job["reports/all.jsonl"]).Length.ShouldBe(200);
        (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(20);
    }

    [Fact]
    public async Task A_deadline_ends_a_request_that_is_under_way()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "p: { get: /odd/silent, rows: /items }");
        (await job.RunAsync("--deadline", "2s")).ShouldEndWith(7).Error.ShouldContain("stopped at its deadline; what has arrived is kept");
        (await job.RunAsync("--deadline", "soon")).ShouldEndWith(2).Error.ShouldContain("'soon' is not a duration");
    }

    [Fact]
    public async Task A_number_of_requests_ends_the_run_so_that_it_can_be_gone_on_with()
    {
        using var cloud = await StandIn.StartAsync("--rows", "200", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "p: { get: '/consignments?size=10', rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }", "all: { sql: select * from p, write: all.jsonl }");
        for (var start = 1; start <= 2; start++)
            (await job.RunAsync("--max-requests", "8")).ShouldEndWith(7).Error.ShouldContain("stopped after 8 requests");
        (await job.RunAsync("--max-requests", "8")).ShouldEndWith(0);
        File.ReadAllLines(job["reports/all.jsonl"]).Length.ShouldBe(200);
        (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(20);
    }
}
