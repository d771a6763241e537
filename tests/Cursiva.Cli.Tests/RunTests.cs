using System.Text;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

public sealed class RunTests
{
    private const string RealSecret = Job.Secret;

    [Fact]
    public async Task The_report_has_exactly_the_rows_that_the_API_served()
    {
        using var cloud = await StandIn.StartAsync("--rows", "1234", "--client-secret", RealSecret);
        using var job = new Job(cloud.Address, Pieces.Consignments + "\n" + Pieces.Depots, Pieces.All);
        var ended = (await job.RunAsync()).ShouldEndWith(0);
        ended.Out.ShouldContain("1,234");

        var expected = await cloud.RowsAsync("consignments");
        File.ReadAllLines(job["reports/all.jsonl"]).ShouldBe(expected.Select(row => row.GetRawText()));
        var csv = File.ReadAllText(job["reports/all.csv"]);
        csv.ShouldBe(Csv(expected));
        (await File.ReadAllLinesAsync(Directory.GetFiles(job.State, "segment-*", SearchOption.AllDirectories).Single(file => file.Contains("/depots/")))).Length.ShouldBe(12);
    }

    [Fact]
    public async Task No_request_is_made_past_the_end()
    {
        using var cloud = await StandIn.StartAsync("--rows", "100", "--client-secret", RealSecret);
        using var job = new Job(cloud.Address, Pieces.Consignments);
        (await job.RunAsync()).ShouldEndWith(0);
        (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(2);
    }

    [Theory]
    [InlineData("links=relative")]
    [InlineData("shape=pretty")]
    public async Task Relative_links_and_pages_for_people_are_read(string query)
    {
        using var cloud = await StandIn.StartAsync("--rows", "100", "--client-secret", RealSecret);
        using var job = new Job(cloud.Address, $$"""
            consignments:
              get: /consignments?size=30&{{query}}
              rows: /items
              paging: { next-link: /links/next }
            """, Pieces.All);
        (await job.RunAsync()).ShouldEndWith(0);
        var expected = (await cloud.RowsAsync("consignments")).Select(row => row.GetRawText());
        File.ReadAllLines(job["reports/all.jsonl"]).ShouldBe(expected);
    }

    [Fact]
    public async Task A_limit_is_never_breached_by_two_processes_that_share_a_client()
    {
        using var cloud = await StandIn.StartAsync("--rows", "6000", "--limit", "40/1", "--latency", "5", "--jitter", "60", "--client-secret", RealSecret);
        using var one = new Job(cloud.Address, Pieces.Consignments, api: "limits: { at-most: 40 per second }");
        File.Copy(one.Path, one["other.cursiva.yaml"]);
        var both = await Task.WhenAll(one.RunAsync(), one.DoAsync(["run", one["other.cursiva.yaml"]]));
        both.ShouldAllBe(ended => ended.Code == 0, both[0].All + both[1].All);
        var statistics = await cloud.StatisticsAsync();
        statistics.GetProperty("requests").GetInt32().ShouldBe(240);
        statistics.GetProperty("breaches").GetInt32().ShouldBe(0);
        statistics.GetProperty("statuses").EnumerateObject().Select(status => status.Name).ShouldBe(["200"]);
    }

    [Fact]
    public async Task Without_a_declared_limit_Retry_After_is_kept_and_nothing_is_lost()
    {
        using var cloud = await StandIn.StartAsync("--rows", "1000", "--limit", "8/1", "--client-secret", RealSecret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.RunAsync()).ShouldEndWith(0);
        (await cloud.StatisticsAsync()).GetProperty("statuses").GetProperty("429").GetInt32().ShouldBeGreaterThan(0);
        File.ReadAllLines(job["reports/all.jsonl"]).Length.ShouldBe(1000);
    }

    [Fact]
    public async Task Failures_that_pass_are_retried_and_counted()
    {
        using var cloud = await StandIn.StartAsync("--rows", "500", "--fail-every", "4", "--client-secret", RealSecret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        var ended = (await job.RunAsync("--format", "json")).ShouldEndWith(0);
        using var summary = JsonDocument.Parse(ended.Out);
        summary.RootElement.GetProperty("retries").GetInt32().ShouldBe(3);
        File.ReadAllLines(job["reports/all.jsonl"]).Length.ShouldBe(500);
    }

    [Fact]
    public async Task A_token_that_ends_or_is_withdrawn_half_way_is_replaced()
    {
        using var cloud = await StandIn.StartAsync("--rows", "500", "--token-uses", "4", "--client-secret", RealSecret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.RunAsync()).ShouldEndWith(0);
        (await cloud.StatisticsAsync()).GetProperty("tokens_issued").GetInt32().ShouldBe(3);

        using var shortLived = await StandIn.StartAsync("--rows", "1000", "--token-lifetime", "3", "--latency", "300", "--client-secret", RealSecret);
        using var other = new Job(shortLived.Address, Pieces.Consignments, Pieces.All);
        (await other.RunAsync()).ShouldEndWith(0);
        var statistics = await shortLived.StatisticsAsync();
        statistics.GetProperty("tokens_issued").GetInt32().ShouldBeGreaterThan(1);
        statistics.GetProperty("statuses").TryGetProperty("401", out _).ShouldBeFalse("tokens are renewed before they end");
        File.ReadAllLines(other["reports/all.jsonl"]).Length.ShouldBe(1000);
    }

    [Fact]
    public async Task Both_ways_to_send_the_secret_work()
    {
        using var cloud = await StandIn.StartAsync("--rows", "10", "--client-secret", RealSecret);
        foreach (var way in new[] { "client_secret_basic", "client_secret_post" })
        {
            using var job = new Job(cloud.Address, Pieces.Consignments, identity: $"client-auth: {way}");
            (await job.RunAsync()).ShouldEndWith(0);
        }
    }

    [Fact]
    public async Task Exact_values_survive_from_the_API_to_the_files()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", RealSecret);
        using var job = new Job(cloud.Address, "exact: { get: /odd/exact, rows: /items }", """
            exact: { sql: select * from exact, write: [exact.csv, exact.jsonl] }
            """);
        (await job.RunAsync()).ShouldEndWith(0);
        File.ReadAllText(job["reports/exact.jsonl"]).ShouldBe(
            """
            {"id":9007199254740993,"price":1.10,"long":123456789012345678901234567890.123456789,"tiny":1e-7,"code":"0012","empty":"","none":null,"note":"a \"quoted\", line\nbreak"}
            {"id":9223372036854775807,"price":20.00,"long":1,"tiny":0.5,"code":"7","empty":"x","none":null,"note":"café 🚀"}

            """);
        File.ReadAllText(job["reports/exact.csv"]).ShouldBe(
            "id,price,long,tiny,code,empty,none,note\r\n"
            + "9007199254740993,1.10,123456789012345678901234567890.123456789,1e-7,0012,\"\",,\"a \"\"quoted\"\", line\nbreak\"\r\n"
            + "9223372036854775807,20.00,1,0.5,7,x,,café 🚀\r\n");
    }

    [Fact]
    public async Task The_same_landing_gives_the_same_bytes()
    {
        using var cloud = await StandIn.StartAsync("--rows", "3000", "--client-secret", RealSecret);
        using var job = new Job(cloud.Address, Pieces.Consignments, """
            ties: { sql: "select depot, avg(weight_kg::double) as mean, list(reference) as them from consignments group by depot", write: ties.jsonl }
            """);
        (await job.RunAsync()).ShouldEndWith(0);
        var first = File.ReadAllBytes(job["reports/ties.jsonl"]);
        (await job.RunAsync()).ShouldEndWith(0);
        File.ReadAllBytes(job["reports/ties.jsonl"]).ShouldBe(first);
    }

    [Fact]
    public async Task Memory_does_not_grow_with_the_rows()
    {
        using var cloud = await StandIn.StartAsync("--rows", "400000", "--client-secret", RealSecret);
        async Task<double> PeakAsync(string since)
        {
            using var job = new Job(cloud.Address, $$"""
                consignments: { get: "/consignments?size=1000&since={{since}}", rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }
                """);
            return await Tools.PeakMemoryAsync(job);
        }

        var little = await PeakAsync("2026-03-29T00:00:00Z"); // the last 28th of the rows
        var much = await PeakAsync("2026-03-01T00:00:00Z");
        much.ShouldBeLessThan(little + 24, $"{little:0} MB for 14,286 rows, {much:0} MB for 400,000");
    }

    private static string Csv(List<JsonElement> rows)
    {
        var text = new StringBuilder();
        text.Append(string.Join(',', rows[0].EnumerateObject().Select(field => field.Name))).Append("\r\n");
        foreach (var row in rows)
        {
            text.Append(string.Join(',', row.EnumerateObject().Select(field => field.Value.ValueKind switch
            {
                JsonValueKind.Null => "",
                JsonValueKind.String when field.Value.GetString()!.AsSpan().IndexOfAny(",\"\n\r") < 0 && field.Value.GetString()!.Length > 0 => field.Value.GetString(),
                JsonValueKind.String => "\"" + field.Value.GetString()!.Replace("\"", "\"\"") + "\"",
                _ => field.Value.GetRawText(),
            }))).Append("\r\n");
        }

        return text.ToString();
    }
}
