using System.Diagnostics;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Reports, through the built program: what changed, what must hold, what is written again.</summary>
public sealed class ReportTests
{
    private const string Pulls = """
        consignments:
          get: /consignments
          rows: /items
          paging: { cursor: /page/cursor, parameter: cursor }
          key: /reference
        """;

    private const string Compared = """
        compare:
          consignments: { ignore: [due_at] }
        views:
          late: select * from consignments where status = 'late'
          fresh: select * from added.consignments
        """;

    private const string Page = """
        activity:
          title: Activity
          parts:
            late: { as: figure, sql: select count(*) from late }
            new: { as: figure, title: New, sql: select count(*) from added.consignments }
            fresh: { as: figure, title: Fresh, sql: select count(*) from fresh }
            moved: { sql: "select reference, before, now from changed.consignments where \"column\" = 'status' order by reference" }
            came: { sql: select reference from added.consignments order by reference }
            went: { sql: select reference from removed.consignments }
            before: { sql: "select (select count(*) from consignments) as now, (select count(*) from before.consignments) as before, r.number, r.before_number, r.ended_at >= r.started_at as ended from run r" }
          write: [activity.md, activity.html, activity.xlsx, activity.sqlite, activity.fragment.html]
        rows: { sql: select * from late order by reference, write: [late.csv, late.parquet] }
        """;

    [Fact]
    public async Task A_report_tells_what_has_changed_since_the_last_run()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "600");
        using var job = new Job(cloud.Address, Pulls, Page, top: Compared);
        (await job.RunAsync()).ShouldEndWith(0);
        var first = File.ReadAllText(job["reports/activity.md"]);
        first.ShouldContain("| 600 | 0 | 1 |  | true |");
        var before = await cloud.RowsAsync("consignments");
        await cloud.NextDayAsync();
        (await job.RunAsync()).ShouldEndWith(0);
        var after = await cloud.RowsAsync("consignments");
        var second = File.ReadAllText(job["reports/activity.md"]);
        second.ShouldContain("| 610 | 600 | 2 | 1 | true |");
        var (late, lateBefore) = (after.Count(IsLate), before.Count(IsLate));
        second.ShouldContain($"**Late: {late}** ({(late < lateBefore ? "−" : "+")}{Math.Abs(late - lateBefore)}, ");
        foreach (var (row, was) in after.Zip(before).Where(pair => Status(pair.First) != Status(pair.Second)))
            second.ShouldContain($"| {Escaped(row, "reference")} | {Status(was)} | {Status(row)} |");
        second.ShouldContain($"| {Escaped(after[^1], "reference")} |");

        // What was added since the last run is not compared with what had been added in that one: 10 and 600 would be -98.3 %.
        second.ShouldContain("**New: 10**\n");
        second.ShouldContain("**Fresh: 10**\n");
    }

    [Fact]
    public async Task Reports_are_written_again_byte_for_byte_without_a_request()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "600");
        using var job = new Job(cloud.Address, Pulls, Page, top: Compared);
        (await job.RunAsync()).ShouldEndWith(0);
        var first = Reports(job);
        await cloud.NextDayAsync();
        (await job.RunAsync()).ShouldEndWith(0);
        var second = Reports(job);
        var requests = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt64();
        (await job.DoAsync(["report", job.Path])).ShouldEndWith(0).Out.ShouldContain("late.parquet");
        ShouldBe(Reports(job), second);
        (await job.DoAsync(["report", job.Path, "--run", "1"])).ShouldEndWith(0);
        ShouldBe(Reports(job), first);
        (await cloud.StatisticsAsync()).GetProperty("requests").GetInt64().ShouldBe(requests);
        var now = Reports(job);
        (await job.DoAsync(["report", job.Path, "--run", "1", "--out", "once"])).ShouldEndWith(0).Out.ShouldContain("once/");
        Directory.GetFiles(job["once"]).Select(Path.GetFileName).Order().ShouldBe(now.Keys.Order());
        foreach (var (name, content) in Reports(job))
            content.AsSpan().SequenceEqual(now[name]).ShouldBeTrue(name);
        (await job.DoAsync(["report", job.Path, "--run", "9"])).ShouldEndWith(2).Error.ShouldContain("the job has no run 9");
    }

    [Fact]
    public async Task A_report_is_written_again_with_the_inputs_of_its_run()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "60");
        using var job = new Job(cloud.Address, Pulls, "all: { sql: \"select count(*) as n, '{depot}' as depot from consignments where depot = '{depot}'\", write: all.csv }", top: "inputs: { depot: Saltmarsh }");
        (await job.RunAsync("--input", "depot=Low Ferry")).ShouldEndWith(0);
        var written = File.ReadAllText(job["reports/all.csv"]);
        written.ShouldContain("Low Ferry");
        (await job.DoAsync(["report", job.Path])).ShouldEndWith(0);
        File.ReadAllText(job["reports/all.csv"]).ShouldBe(written);
        (await job.DoAsync(["report", job.Path, "--input", "depot=Tidewell"])).ShouldEndWith(0);
        File.ReadAllText(job["reports/all.csv"]).ShouldContain("Tidewell");
    }

    [Fact]
    public async Task What_fails_a_requirement_is_told_its_last_good_file_stays_and_the_others_are_written()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "300");
        using var job = new Job(cloud.Address, Pulls, """
            strict:
              sql: select reference, status from consignments order by reference
              require: { at-least: 300, unique: [reference] }
              write: strict.csv
            loose: { sql: select count(*) as n from consignments, write: loose.csv }
            """);
        (await job.RunAsync()).ShouldEndWith(0);
        var good = File.ReadAllText(job["reports/strict.csv"]);
        await cloud.NextDayAsync();
        job.Yaml = job.Yaml.Replace("at-least: 300", "at-least: 400, no-nulls: [status]");
        job.Save();
        var failed = (await job.RunAsync()).ShouldEndWith(8);
        failed.Error.ShouldContain("report 'strict' was not written, since a requirement failed: 305 rows, at least 400 are required");
        File.ReadAllText(job["reports/strict.csv"]).ShouldBe(good);
        File.ReadAllText(job["reports/loose.csv"]).ShouldContain("305");
        (await job.DoAsync(["runs", "list", job.Path])).Out.ShouldContain("stopped with code 8");

        // The rows are right, so the requirement is changed: nothing is fetched again, and the run is a good one then.
        var requests = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt64();
        job.Yaml = job.Yaml.Replace("at-least: 400", "at-least: 305");
        job.Save();
        (await job.DoAsync(["report", job.Path])).ShouldEndWith(0);
        File.ReadAllLines(job["reports/strict.csv"]).Length.ShouldBe(306);
        (await cloud.StatisticsAsync()).GetProperty("requests").GetInt64().ShouldBe(requests);
        (await job.DoAsync(["runs", "list", job.Path])).Out.ShouldNotContain("stopped");
    }

    [Fact]
    public async Task Columns_that_change_are_told_and_may_be_required_to_stay()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "60");
        using var job = new Job(cloud.Address, Pulls + "\n  omit: [/goods]", "all: { sql: select count(*) as n from consignments, write: all.md }");
        (await job.RunAsync()).ShouldEndWith(0).All.ShouldNotContain("have changed");
        job.Yaml = job.Yaml.Replace("omit: [/goods]", "omit: [/pieces]");
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0).Error.ShouldContain("the columns of pull 'consignments' have changed since the last run: goods is new (varchar); pieces is gone");
        File.ReadAllText(job["reports/all.md"]).ShouldContain("pieces is gone");
        var good = File.ReadAllText(job["reports/all.md"]);
        job.Yaml = job.Yaml.Replace("omit: [/pieces]", "require: same-columns");
        job.Save();
        var failed = (await job.RunAsync()).ShouldEndWith(8);
        failed.Error.ShouldContain("the columns differ from those of the last good run, and the job requires the same ones: 'consignments': pieces is new (bigint)");
        File.ReadAllText(job["reports/all.md"]).ShouldBe(good);
    }

    [Theory]
    [InlineData("select * from read_text('/etc/passwd')")]
    [InlineData("select * from read_csv('state/store.key')")]
    [InlineData("select * from '/etc/passwd'")]
    public async Task SQL_reaches_no_files(string sql)
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "5");
        using var job = new Job(cloud.Address, Pulls, $"all: {{ sql: \"{sql}\", write: [all.csv, all.parquet] }}");
        var failed = await job.RunAsync();
        failed.Code.ShouldBeOneOf(3, 8);
        failed.All.ShouldNotContain("root:");
        File.Exists(job["reports/all.csv"]).ShouldBeFalse();
    }

    [Fact]
    public async Task A_mistake_in_a_query_is_told_with_its_place_and_the_columns_there_are()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "5");
        using var job = new Job(cloud.Address, Pulls, "all: { sql: select * from q, write: all.csv }", top: "views:\n  q: |\n    select reference,\n           nonsense\n    from consignments");
        var failed = (await job.RunAsync()).ShouldEndWith(8);
        failed.Error.ShouldContain("late.cursiva.yaml:5:12: the SQL of view 'q' failed");
        failed.Error.ShouldContain("consignments has id, reference, depot");
        job.Yaml = job.Yaml.Replace("from consignments\n", "from before.consignment\n");
        job.Save();
        (await job.DoAsync(["check", job.Path])).ShouldEndWith(3).All.ShouldContain("view 'q' reads the table 'before.consignment', which does not exist; did you mean 'before.consignments'?");
    }

    [Fact]
    public async Task SQLite_files_are_read_by_others()
    {
        Tools.Require("python3");
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "3");
        using var job = new Job(cloud.Address, Pulls, """
            all: { sql: "select 4100000000000000001 as id, 123456789012345678901234567.891::decimal(30,3) as d, '0012' as zeros, '' as empty, null as nothing, true as yes, 0.1::double as f, timestamp '2026-03-02 01:02:03' as at", write: all.sqlite }
            """);
        (await job.RunAsync()).ShouldEndWith(0);
        var read = await App.RunAsync("python3", ["-c", "import sqlite3,json; c=sqlite3.connect('reports/all.sqlite'); print(json.dumps([list(r) for r in c.execute('select * from \"all\"')]), c.execute('pragma integrity_check').fetchone()[0])"], job.Folder, []);
        read.ShouldEndWith(0).Out.Trim().ShouldBe("""[[4100000000000000001, "123456789012345678901234567.891", "0012", "", null, 1, 0.1, "2026-03-02T01:02:03Z"]] ok""");
    }

    private static bool IsLate(JsonElement row) => Status(row) == "late";

    private static string Status(JsonElement row) => row.GetProperty("status").GetString()!;

    private static string Escaped(JsonElement row, string name) => row.GetProperty(name).GetString()!;

    private static Dictionary<string, byte[]> Reports(Job job) => Directory.GetFiles(job["reports"]).ToDictionary(file => Path.GetFileName(file), File.ReadAllBytes);

    private static void ShouldBe(Dictionary<string, byte[]> now, Dictionary<string, byte[]> expected)
    {
        now.Keys.ShouldBe(expected.Keys, ignoreOrder: true);
        foreach (var (file, bytes) in expected)
            now[file].AsSpan().SequenceEqual(bytes).ShouldBeTrue(file);
    }
}
