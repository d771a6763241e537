using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Looking back at runs, and what stays of them.</summary>
public sealed class RunsTests
{
    private const string Pulls = """
        consignments:
          get: /consignments
          rows: /items
          paging: { cursor: /page/cursor, parameter: cursor }
        """;

    private const string Vehicles = """
        vehicles:
          get: /vehicles
          query: { since: "{mark}" }
          rows: /items
          paging: { next-link: /links/next }
          key: /id
          incremental: { by: /changed_at }
        """;

    [Fact]
    public async Task Runs_are_listed_shown_compared_and_pruned()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "120");
        using var job = new Job(cloud.Address, Pulls, "all: { sql: select * from consignments, write: all.csv }");
        (await job.RunAsync()).ShouldEndWith(0);
        var before = await cloud.RowsAsync("consignments");
        await cloud.NextDayAsync();
        (await job.RunAsync()).ShouldEndWith(0);
        var after = await cloud.RowsAsync("consignments");

        var list = JsonDocument.Parse((await job.DoAsync(["runs", "list", job.Path, "--format", "json"])).ShouldEndWith(0).Out).RootElement;
        list.EnumerateArray().Select(run => (run.GetProperty("run").GetInt32(), run.GetProperty("state").GetString(), run.GetProperty("rows").GetProperty("consignments").GetInt32())).ShouldBe([(1, "done", 120), (2, "done", 122)]);
        var shown = (await job.DoAsync(["runs", "show", job.Path, "2"])).ShouldEndWith(0).Out;
        shown.ShouldContain("122 rows: id bigint, reference varchar");
        shown.ShouldContain("landing");
        (await job.DoAsync(["runs", "show", job.Path, "3"])).ShouldEndWith(2).Error.ShouldContain("no run 3");

        (await job.DoAsync(["runs", "compare", job.Path, "1", "2"])).ShouldEndWith(2).Error.ShouldContain("add --pull NAME --key COLUMN");
        string[] compare = ["runs", "compare", job.Path, "1", "2", "--pull", "consignments", "--key", "reference", "--rows", "1000"];
        var compared = JsonDocument.Parse((await job.DoAsync([.. compare, "--format", "json"])).ShouldEndWith(0).Out).RootElement[0];
        compared.GetProperty("added").GetInt32().ShouldBe(2);
        compared.GetProperty("removed").GetInt32().ShouldBe(0);
        var changed = after.Zip(before).Count(pair => pair.First.GetRawText() != pair.Second.GetRawText());
        changed.ShouldBeGreaterThan(0);
        compared.GetProperty("changed").GetInt32().ShouldBe(changed);
        (await job.DoAsync(compare)).ShouldEndWith(0).Out.ShouldContain($"2 added, 0 removed, {changed} changed");

        (await job.DoAsync(["runs", "prune", job.Path, "--retain", "1"])).ShouldEndWith(0).Out.ShouldContain("Removed the rows of run 1");
        (await job.DoAsync(["runs", "compare", job.Path, "1", "2", "--pull", "consignments", "--key", "reference"])).ShouldEndWith(2).Error.ShouldContain("the rows of run 1 were removed");
        (await job.DoAsync(["runs", "list", job.Path])).Out.ShouldContain("removed");
        (await job.DoAsync(["runs", "prune", job.Path, "--retain", "0"])).ShouldEndWith(2).Error.ShouldContain("write a number of good runs from 1, an age, or a size");
    }

    [Fact]
    public async Task The_landings_of_the_last_three_good_runs_stay_and_nobody_else_reads_them()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "10");
        using var job = new Job(cloud.Address, Pulls, "all: { sql: select * from consignments, write: all.csv }");
        for (var run = 1; run <= 5; run++)
            (await job.RunAsync()).ShouldEndWith(0);
        Runs(job).ShouldBe(["000003", "000004", "000005"]);
        foreach (var folder in Directory.GetDirectories(job["state"], "*", SearchOption.AllDirectories))
            File.GetUnixFileMode(folder).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute, folder);
        job.Yaml += "\nretain: 1";
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0);
        Runs(job).ShouldBe(["000006"]);
    }

    [Fact]
    public async Task A_landing_that_an_incremental_pull_needs_stays()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Vehicles, "all: { sql: select count(*) as n from vehicles, write: all.csv }", top: "retain: 1");
        for (var run = 1; run <= 3; run++)
        {
            (await job.RunAsync()).ShouldEndWith(0);
            await cloud.NextDayAsync();
        }

        Runs(job).ShouldBe(["000001", "000002", "000003"]);
        File.ReadAllText(job["reports/all.csv"]).ShouldBe("n\r\n60\r\n");
        (await job.RunAsync("--full")).ShouldEndWith(0);
        Runs(job).ShouldBe(["000004"]);
    }

    [Fact]
    public async Task What_was_before_is_told_when_it_is_gone()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "10");
        using var job = new Job(cloud.Address, Pulls, "all: { sql: select count(*) as n from before.consignments, write: all.csv }");
        (await job.RunAsync()).ShouldEndWith(0).All.ShouldNotContain("not there any more");
        File.ReadAllText(job["reports/all.csv"]).ShouldBe("n\r\n0\r\n");
        Directory.Delete(Path.Combine(RunsFolder(job), "000001"), recursive: true);
        (await job.RunAsync()).ShouldEndWith(0).Error.ShouldContain("the rows of pull 'consignments' in run 1 were removed");
        (await job.RunAsync()).ShouldEndWith(0);
        File.ReadAllText(job["reports/all.csv"]).ShouldBe("n\r\n10\r\n");
    }

    private static string RunsFolder(Job job) => Path.Combine(Directory.GetDirectories(job["state/jobs"]).Single(), "runs");

    private static string[] Runs(Job job) => [.. Directory.GetDirectories(RunsFolder(job)).Select(folder => Path.GetFileName(folder)).Order(StringComparer.Ordinal)];
}
