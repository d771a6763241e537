using System.Security.Cryptography;

namespace Cursiva.Cli.Tests;

/// <summary>Runs that are answered from a recorded trace: no network, no secret, the same reports, and nothing else changed.</summary>
public sealed class RehearsalTests
{
    private const string Consignments = "consignments: { get: /consignments, rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }";

    [Theory]
    [InlineData("""
        p: { get: "/consignments?size=40", rows: /items, paging: { next-link: /links/next }, query: { key: "env:BRACKWATER_SECRET" }, headers: { X-Secret: "env:BRACKWATER_SECRET" } }
        """)]
    [InlineData("p: { get: /by/page, rows: /items, paging: { page-number: 1, parameter: page } }")]
    [InlineData("p: { get: /stream/lines, paging: { stream: lines } }")]
    [InlineData("p: { get: /by/utf-16, rows: '' }")]
    [InlineData("p: { post: /by/search, body: { page: { size: 40 }, exact: true, note: 'env:BRACKWATER_SECRET' }, rows: /found, paging: { cursor: /after, body-at: /page/after } }")]
    [InlineData("""
        p:
          post: /exports?form=lines
          body: { what: consignments }
          export: { state: /state, done: [ready], failed: [failed], files: /parts, link: /url }
        """)]
    [InlineData("""
        folders: { get: /folders/root/children, rows: /items, paging: { next-link: /next }, opens: { when: { /kind: folder }, get: "/folders/{folders.id}/children" } }
        p:
          per: { name: file, sql: "select id, name, content from folders where kind = 'file'" }
          carry: { id: /id }
          link: "{file.content}"
          download: "papers/{file.id}"
        """)]
    public async Task A_rehearsal_gives_the_same_reports_with_no_network_and_no_secret(string pulls)
    {
        var cloud = await StandIn.StartAsync("--rows", "200", "--client-secret", Job.Secret, "--fail-every", "7");
        using var job = new Job(cloud.Address, pulls, "all: { sql: select * from p order by all, write: [all.csv, all.xlsx, all.html] }", api: $"also-origins: {{ '{await cloud.ElsewhereAsync()}': bare }}");
        (await job.RunAsync("--trace", job["night.har"])).ShouldEndWith(0);
        cloud.Dispose();
        File.ReadAllText(job["night.har"]).ShouldNotContain(Job.Secret);
        var before = Digests(job.State);
        (await RehearseAsync(job)).ShouldEndWith(0).Error.ShouldContain("nothing else was changed");
        foreach (var report in Directory.GetFiles(job["reports"], "*", SearchOption.AllDirectories))
            File.ReadAllBytes(report.Replace("/reports/", "/rehearsal/", StringComparison.Ordinal)).ShouldBe(File.ReadAllBytes(report), report);
        Digests(job.State).ShouldBe(before);
    }

    [Fact]
    public async Task A_later_run_is_rehearsed_under_its_number_and_with_its_marks()
    {
        var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, """
            vehicles: { get: /vehicles, query: { since: "{mark}" }, rows: /items, paging: { next-link: /links/next }, key: /id, incremental: { by: /changed_at } }
            """, "all: { sql: select * from vehicles order by id, write: 'all-{run.number}.csv' }");
        (await job.RunAsync()).ShouldEndWith(0);
        await cloud.NextDayAsync();
        (await job.RunAsync("--trace", job["night.har"])).ShouldEndWith(0);
        cloud.Dispose();
        var ended = (await RehearseAsync(job)).ShouldEndWith(0);
        ended.Error.ShouldContain("the reports have only the rows of this run");
        File.Exists(job["rehearsal/all-2.csv"]).ShouldBeTrue();
        (await job.DoAsync(["runs", "list", job.Path])).Out.Split('\n').Count(line => line.Contains("done")).ShouldBe(2);
    }

    [Fact]
    public async Task What_a_changed_job_asks_besides_is_told()
    {
        var cloud = await StandIn.StartAsync("--rows", "60", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Consignments + "\ndepots: { get: /depots, rows: /items }", "all: { sql: select count(*) as n from consignments, write: all.csv }");
        (await job.RunAsync("--trace", job["night.har"])).ShouldEndWith(0);
        cloud.Dispose();
        var yaml = job.Yaml;
        job.Yaml = yaml.Replace("get: /consignments,", "get: /consignments, query: { status: late },");
        job.Save();
        var other = (await RehearseAsync(job)).ShouldEndWith(5);
        other.Error.ShouldContain("has no GET");
        other.Error.ShouldContain("status=late");
        job.Yaml = yaml.Replace("depots: { get: /depots, rows: /items }", "");
        job.Save();
        (await RehearseAsync(job)).ShouldEndWith(0).Error.ShouldContain("1 request of the recording was not made: GET");
        job.Yaml = yaml.Replace("select count(*) as n", "select max(reference) as last");
        job.Save();
        (await RehearseAsync(job)).ShouldEndWith(0);
        File.ReadAllLines(job["rehearsal/all.csv"])[0].ShouldBe("last");
    }

    [Fact]
    public async Task The_failure_of_a_night_is_replayed()
    {
        var cloud = await StandIn.StartAsync("--rows", "60", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "p: { get: /odd/refuse?status=403, rows: /items }", "all: { sql: select * from p, write: all.csv }");
        var night = (await job.RunAsync("--trace", job["night.har"])).ShouldEndWith(5);
        cloud.Dispose();
        var said = night.Error.Split('\n').First(line => line.Contains("answered with status"));
        (await RehearseAsync(job)).ShouldEndWith(5).Error.ShouldContain(said);
    }

    [Theory]
    [InlineData("", "cannot be read")]
    [InlineData("[]", "is not a recording in the HAR 1.2 format")]
    [InlineData("""{"log":{"version":"1.2","entries":[]}}""", "has no exchange")]
    [InlineData("""{"log":{"version":"1.2","entries":[{"request":{"method":"GET","url":"https://a.example/","headers":[]},"response":{"status":200,"headers":[],"content":{"text":"{}"}}}],"_cursiva":{"job":"late","run":3,"started":"2026-03-02T08:00:00Z","resumed":true,"inputs":{},"marks":{}}}}""", "from a resumed run")]
    public async Task What_cannot_be_rehearsed_from_is_told(string text, string said)
    {
        using var job = new Job("http://127.0.0.1:1", Consignments, "all: { sql: select * from consignments, write: all.csv }");
        if (text.Length > 0)
            File.WriteAllText(job["night.har"], text);
        (await RehearseAsync(job)).ShouldEndWith(2).Error.ShouldContain(said);
        (await job.DoAsync(["run", job.Path, "--rehearse", "night.har", "--new"])).ShouldEndWith(2).Error.ShouldContain("remove --new");
    }

    private static Task<Ended> RehearseAsync(Job job) => App.RunAsync(App.Cursiva, ["run", job.Path, "--rehearse", job["night.har"]], job.Folder, [("CURSIVA_STATE", job.State), ("BRACKWATER_SECRET", null)]);

    private static Dictionary<string, string> Digests(string folder) =>
        Directory.GetFiles(folder, "*", SearchOption.AllDirectories).Where(file => !file.EndsWith("-shm", StringComparison.Ordinal)).ToDictionary(file => file, file => Convert.ToHexString(SHA256.HashData(File.ReadAllBytes(file))));
}
