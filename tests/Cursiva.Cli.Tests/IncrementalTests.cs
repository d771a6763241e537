using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Pulls that ask for what is new since the last good run.</summary>
public sealed class IncrementalTests
{
    private const string ByTime = """
        vehicles:
          get: /vehicles{?since}
          query: { since: "{mark}" }
          rows: /items
          paging: { next-link: /links/next }
          key: /id
          incremental: { by: /changed_at }
          deleted-when: { at: /state, is: removed }
        """;

    private const string ByDelta = """
        vehicles:
          get: /vehicles/changes
          rows: /items
          paging: { next-link: /links/next, changes: /links/changes }
          key: /id
          deleted-when: { at: /state, is: removed }
        """;

    private const string All = "all: { sql: select * from vehicles order by id, write: all.jsonl }";

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task Each_run_asks_for_changes_alone_and_reports_see_the_newest_state(bool byTime)
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, byTime ? ByTime.Replace("{?since}", "") : ByDelta, All);
        for (var day = 0; day < 4; day++)
        {
            var ended = (await job.RunAsync("--format", "json")).ShouldEndWith(0);
            var rows = JsonDocument.Parse(ended.Out).RootElement.GetProperty("pulls")[0].GetProperty("rows").GetInt32();
            if (day == 0)
                rows.ShouldBe(60);
            else
                rows.ShouldBeLessThan(40);
            await ShouldBeNewestAsync(cloud, job);
            await cloud.NextDayAsync();
        }
    }

    [Fact]
    public async Task A_failed_run_never_moves_the_mark()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, ByTime.Replace("{?since}", ""), All);
        (await job.RunAsync()).ShouldEndWith(0);
        await cloud.NextDayAsync();
        (await job.RunAsync("--max-requests", "1")).Code.ShouldBeOneOf(0, 7);
        job.Yaml = job.Yaml.Replace("select * from vehicles", "select nonsense from vehicles");
        job.Save();
        (await job.RunAsync("--new")).ShouldEndWith(8);
        job.Yaml = job.Yaml.Replace("select nonsense from vehicles", "select * from vehicles");
        job.Save();
        (await job.RunAsync("--new")).ShouldEndWith(0);
        await ShouldBeNewestAsync(cloud, job);
    }

    [Fact]
    public async Task Full_asks_for_everything_and_an_overlap_goes_back_behind_the_mark()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, ByTime.Replace("{?since}", ""), All);
        (await job.RunAsync()).ShouldEndWith(0);
        (await Rows(await job.RunAsync("--full"))).ShouldBe(60);
        (await Rows(await job.RunAsync())).ShouldBe(1, "the mark itself is asked for again: rows of that very moment may be new");
        await cloud.NextDayAsync();
        var without = await Rows(await job.RunAsync());
        job.Yaml = job.Yaml.Replace("by: /changed_at", "by: /changed_at, overlap: 3d");
        job.Save();
        (await Rows(await job.RunAsync())).ShouldBe(60);
        without.ShouldBeLessThan(60);
        await ShouldBeNewestAsync(cloud, job);
    }

    [Fact]
    public async Task A_delta_token_that_has_expired_begins_anew_and_says_so()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "delta-expires");
        using var job = new Job(cloud.Address, ByDelta, All);
        (await job.RunAsync()).ShouldEndWith(0);
        await cloud.NextDayAsync();
        var ended = await job.RunAsync();
        ended.ShouldEndWith(0).Error.ShouldContain("this token is too old; start over");
        ended.Error.ShouldContain("fetched again from its first page");

        // What has gone meanwhile is not on the new list, and nothing says that it went.
        await ShouldBeNewestAsync(cloud, job);
        (await job.DoAsync(["runs", "compare", job.Path, "1", "2"])).ShouldEndWith(0).Out.ShouldContain("0 added, 1 removed");
    }

    [Fact]
    public async Task A_listing_that_began_anew_and_was_stopped_goes_on_as_one()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "delta-expires");
        using var job = new Job(cloud.Address, ByDelta, All);
        (await job.RunAsync()).ShouldEndWith(0);
        await cloud.NextDayAsync();
        (await job.RunAsync("--max-requests", "2")).ShouldEndWith(7).Error.ShouldContain("fetched again from its first page");
        (await job.RunAsync("--resume")).ShouldEndWith(0);
        await ShouldBeNewestAsync(cloud, job);
    }

    [Fact]
    public async Task A_pull_repeated_for_a_query_sees_the_newest_state_too()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, ByTime.Replace("{?since}", "") + """

            scans: { per: { name: vehicle, sql: select id from vehicles }, get: "/tenants/T0001/scans?vehicle={vehicle.id}", rows: /items }
            """, All);
        for (var day = 0; day < 3; day++)
        {
            var ended = (await job.RunAsync("--format", "json")).ShouldEndWith(0);
            await ShouldBeNewestAsync(cloud, job);
            JsonDocument.Parse(ended.Out).RootElement.GetProperty("pulls")[1].GetProperty("strands").GetInt32().ShouldBe(File.ReadAllLines(job["reports/all.jsonl"]).Length);
            await cloud.NextDayAsync();
        }
    }

    private static Task<int> Rows(Ended ended) => Task.FromResult(int.Parse(System.Text.RegularExpressions.Regex.Match(ended.ShouldEndWith(0).Out, @"vehicles +([\d,]+)").Groups[1].Value.Replace(",", "")));

    private static async Task ShouldBeNewestAsync(StandIn cloud, Job job)
    {
        var page = await cloud.PageAsync("/v2/vehicles?size=1000");
        File.ReadAllLines(job["reports/all.jsonl"]).ShouldBe(page.GetProperty("items").EnumerateArray().Where(row => row.GetProperty("state").GetString() != "removed").Select(row => row.GetRawText()));
    }
}
