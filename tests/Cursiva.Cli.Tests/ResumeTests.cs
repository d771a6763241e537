using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>What a stopped run keeps when the job is changed, moved or named before it is resumed.</summary>
public sealed class ResumeTests : IAsyncLifetime
{
    private const string Pulls = """
        a: { get: /consignments?size=50, rows: /items, paging: { next-link: /links/next } }
        b: { per: { name: place, list: [odd/status/403, depots] }, get: '/{+place}', rows: /items }
        """;

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "100", "--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task Whatever_does_not_shape_rows_may_change_before_a_run_is_resumed()
    {
        using var job = new Job(_cloud.Address, Pulls, "r: { sql: select count(*) as n from a, write: r.csv }");
        (await job.RunAsync()).ShouldEndWith(5);
        job.Yaml = "# corrected\ntitle: Another\n" + job.Yaml.Replace("'/{+place}',", "'/{+place}', skip-when: { status: 403, because: not ours },").Replace("count(*) as n", "count(*) + 1 as n");
        job.Save();
        var resumed = (await job.RunAsync()).ShouldEndWith(0);
        resumed.Error.ShouldContain("resuming run 1");
        File.ReadAllLines(job["reports/r.csv"]).ShouldBe(["n", "101"]);
        (await RequestsAsync("/v2/consignments")).ShouldBe(2);
    }

    [Fact]
    public async Task A_pull_that_has_changed_is_asked_anew_and_the_others_keep_their_rows()
    {
        using var job = new Job(_cloud.Address, Pulls, "r: { sql: \"select (select count(*) from a) as a, (select count(*) from b) as b\", write: r.csv }");
        (await job.RunAsync()).ShouldEndWith(5);
        job.Yaml = job.Yaml.Replace("odd/status/403", "carriers");
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0).Error.ShouldContain("changed since, and fetched again: b");
        (await RequestsAsync("/v2/consignments")).ShouldBe(2);
        (await RequestsAsync("/v2/carriers")).ShouldBe(1);
        var rows = File.ReadAllLines(job["reports/r.csv"])[1].Split(',');
        rows[0].ShouldBe("100");
        int.Parse(rows[1]).ShouldBe((await _cloud.RowsAsync("carriers")).Count + (await _cloud.RowsAsync("depots")).Count);
    }

    [Fact]
    public async Task Wrong_SQL_is_corrected_and_the_reports_are_written_as_the_message_says()
    {
        using var job = new Job(_cloud.Address, "a: { get: /consignments, rows: /items }", "r: { sql: select cast(reference as integer) as n from a, write: r.csv }");
        (await job.RunAsync()).ShouldEndWith(8).Error.ShouldContain($"correct the SQL, and write the reports with cursiva report {job.Path}; nothing is fetched again");
        var asked = await RequestsAsync("/v2/consignments");
        job.Yaml = job.Yaml.Replace("cast(reference as integer)", "count(*)");
        job.Save();
        (await job.DoAsync(["report", job.Path])).ShouldEndWith(0);
        File.ReadAllLines(job["reports/r.csv"]).ShouldBe(["n", "100"]);
        (await RequestsAsync("/v2/consignments")).ShouldBe(asked);
    }

    [Fact]
    public async Task A_run_that_lacks_only_its_reports_does_not_keep_the_next_one_from_asking()
    {
        using var job = new Job(_cloud.Address, "a: { get: /consignments, rows: /items }", "r: { sql: select * from a, require: { at-least: 400 }, write: r.csv }");
        (await job.RunAsync()).ShouldEndWith(8);
        (await job.RunAsync()).ShouldEndWith(8).Error.ShouldContain("beginning run 2: run 1 has all its rows but wrote no report");
        (await RequestsAsync("/v2/consignments")).ShouldBe(2);
        (await job.RunAsync("--resume")).ShouldEndWith(8).Error.ShouldContain("resuming run 2");
        (await RequestsAsync("/v2/consignments")).ShouldBe(2);
    }

    [Fact]
    public async Task History_hangs_on_the_name_of_the_job_and_not_on_where_its_file_lies()
    {
        using var job = new Job(_cloud.Address, "a: { get: /consignments, rows: /items }");
        (await job.RunAsync()).ShouldEndWith(0);
        Directory.CreateDirectory(job["next"]);
        File.Move(job.Path, job["next/late.cursiva.yaml"]);
        (await job.DoAsync(["run", job["next/late.cursiva.yaml"]])).ShouldEndWith(0).Error.ShouldContain("beginning run 2");

        // A name of its own goes with the job, whatever the file is called.
        File.WriteAllText(job["next/renamed.cursiva.yaml"], "name: late\n" + job.Yaml);
        File.Delete(job["next/late.cursiva.yaml"]);
        (await job.DoAsync(["run", job["next/renamed.cursiva.yaml"]])).ShouldEndWith(0).Error.ShouldContain("beginning run 3");
    }

    [Fact]
    public async Task Two_files_of_one_name_are_told_apart_as_the_message_says()
    {
        using var job = new Job(_cloud.Address, "a: { get: /consignments, rows: /items }");
        (await job.RunAsync()).ShouldEndWith(0);
        Directory.CreateDirectory(job["copy"]);
        var copy = job["copy/late.cursiva.yaml"];
        File.Copy(job.Path, copy);
        foreach (var command in new[] { "run", "report" })
        {
            var refused = (await job.DoAsync([command, copy])).ShouldEndWith(3);
            refused.Error.ShouldContain($"two files have the job name 'late': {job.Path} and {copy}");
            refused.Error.ShouldContain("write name: late-2 into one of them");
        }

        (await job.DoAsync(["runs", "list", copy])).ShouldEndWith(3);
        File.WriteAllText(copy, "name: late-2\n" + job.Yaml);
        (await job.DoAsync(["run", copy])).ShouldEndWith(0).Error.ShouldContain("beginning run 1");

        // What has the name by a link is the same file.
        File.CreateSymbolicLink(job["link"], job.Folder);
        (await job.DoAsync(["run", job["link/late.cursiva.yaml"]])).ShouldEndWith(0).Error.ShouldContain("beginning run 2");

        // The other one may be given the new name instead.
        File.WriteAllText(copy, job.Yaml);
        job.Yaml = "name: late-3\n" + job.Yaml;
        job.Save();
        (await job.DoAsync(["run", copy])).ShouldEndWith(0).Error.ShouldContain("beginning run 3");
    }

    [Fact]
    public async Task A_listing_that_is_as_last_time_is_not_sent_again_and_its_rows_are_there()
    {
        using var job = new Job(_cloud.Address, "u: { get: '/by/unchanged{?part}', rows: /items, query: { q: '{word}' } }".Replace("{?part}", ""), "r: { sql: select * from u order by id, write: r.csv }", top: "inputs: { word: x }");
        (await job.RunAsync()).ShouldEndWith(0);
        var report = File.ReadAllText(job["reports/r.csv"]);
        for (var run = 2; run < 4; run++)
        {
            (await job.RunAsync()).ShouldEndWith(0).Out.ShouldContain("100  rows");
            File.ReadAllText(job["reports/r.csv"]).ShouldBe(report);
            (await NotModifiedAsync()).ShouldBe(run - 1);
        }

        // Another address, other rows of the answer, and a new start ask for all of it.
        (await job.RunAsync("--input", "word=y")).ShouldEndWith(0);
        job.Yaml = job.Yaml.Replace("rows: /items,", "rows: /items, omit: [/goods],");
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0);
        (await job.RunAsync("--full")).ShouldEndWith(0);
        (await NotModifiedAsync()).ShouldBe(2);
        (await job.RunAsync()).ShouldEndWith(0);
        (await NotModifiedAsync()).ShouldBe(3);
        File.ReadAllLines(job["reports/r.csv"]).Length.ShouldBe(101);

        // What is not there any more as it was is asked for.
        var landing = Directory.GetFiles(job["state/jobs"], "segment-*.jsonl", SearchOption.AllDirectories).Max(StringComparer.Ordinal)!;
        File.WriteAllText(landing, File.ReadAllText(landing).Replace("BFX", "XXX"));
        (await job.RunAsync()).ShouldEndWith(0);
        (await NotModifiedAsync()).ShouldBe(3);
        File.ReadAllText(job["reports/r.csv"]).ShouldNotContain("XXX");
    }

    [Fact]
    public async Task Check_tells_SQL_that_reads_what_the_last_run_had_not()
    {
        using var job = new Job(_cloud.Address, "u: { get: /consignments, rows: /items }", "r: { sql: select reference from u, write: r.csv }");
        (await job.DoAsync(["check", job.Path])).ShouldEndWith(0);
        Directory.Exists(job.State).ShouldBeFalse();
        (await job.RunAsync()).ShouldEndWith(0);
        (await job.DoAsync(["check", job.Path])).ShouldEndWith(0).Out.ShouldNotContain("with the columns of");
        job.Yaml = job.Yaml.Replace("select reference", "select refrence");
        job.Save();
        var told = (await job.DoAsync(["check", job.Path])).ShouldEndWith(0).Out;
        told.ShouldContain("with the columns of the last run");
        told.ShouldContain("refrence");
    }

    private async Task<int> NotModifiedAsync() => (await _cloud.StatisticsAsync()).GetProperty("statuses").TryGetProperty("304", out var count) ? count.GetInt32() : 0;

    private async Task<int> RequestsAsync(string path) => (await _cloud.StatisticsAsync()).GetProperty("paths").TryGetProperty(path, out var count) ? count.GetInt32() : 0;
}
