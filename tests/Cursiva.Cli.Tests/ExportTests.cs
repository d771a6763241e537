using System.Security.Cryptography;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Export jobs and downloads.</summary>
public sealed class ExportTests
{
    private const string Lines = """
        p:
          post: /exports?form=lines
          body: { what: consignments }
          export: { state: /state, done: [ready], failed: [failed], files: /parts, link: /url }
        """;

    [Fact]
    public async Task An_export_is_submitted_waited_for_and_downloaded_without_credentials_elsewhere()
    {
        using var cloud = await StandIn.StartAsync("--rows", "5000", "--client-secret", Job.Secret, "--quirk", "parts-break");
        using var job = await NewJobAsync(cloud, Lines);
        (await job.RunAsync()).ShouldEndWith(0);
        var seen = await cloud.StatisticsAsync();
        seen.GetProperty("exports_submitted").GetInt32().ShouldBe(1);
        seen.GetProperty("credentials_elsewhere").GetInt32().ShouldBe(0);
        File.ReadAllLines(job["reports/all.jsonl"]).Order().ShouldBe((await cloud.RowsAsync("consignments")).Select(row => row.GetRawText()).Order());
    }

    [Fact]
    public async Task Parts_may_be_CSV_and_the_status_alone_may_tell()
    {
        using var cloud = await StandIn.StartAsync("--rows", "50", "--client-secret", Job.Secret);
        using var job = await NewJobAsync(cloud, "p: { post: '/exports?form=csv', export: { poll-at: /links/status, files: /parts, link: /url, form: csv } }");
        (await job.RunAsync()).ShouldEndWith(0);
        var rows = File.ReadAllLines(job["reports/all.jsonl"]).Select(line => JsonDocument.Parse(line).RootElement).OrderBy(row => row.GetProperty("reference").GetString()).ToList();
        var expected = await cloud.RowsAsync("consignments");
        rows.Select(row => row.GetProperty("goods").GetString()).ShouldBe(expected.Select(row => row.GetProperty("goods").GetString()));
    }

    [Fact]
    public async Task A_stopped_run_asks_for_the_export_that_was_submitted_and_submits_no_other()
    {
        using var cloud = await StandIn.StartAsync("--rows", "500", "--client-secret", Job.Secret, "--latency", "200");
        using var job = await NewJobAsync(cloud, Lines);
        await job.DoAsync(["run", job.Path], async process =>
        {
            await cloud.UntilAsync(seen => seen.GetProperty("paths").EnumerateObject().Any(path => path.Name.StartsWith("/v2/exports/x1")));
            process.Kill();
        });
        (await job.RunAsync()).ShouldEndWith(0).Error.ShouldContain("resuming run 1");
        (await cloud.StatisticsAsync()).GetProperty("exports_submitted").GetInt32().ShouldBe(1);
        File.ReadAllLines(job["reports/all.jsonl"]).Length.ShouldBe(500);
    }

    [Fact]
    public async Task An_export_that_fails_and_a_foreign_address_that_is_not_named_are_told()
    {
        using var cloud = await StandIn.StartAsync("--rows", "50", "--client-secret", Job.Secret, "--quirk", "export-fails");
        using var job = await NewJobAsync(cloud, Lines);
        var failed = (await job.RunAsync()).ShouldEndWith(5);
        failed.Error.ShouldContain("the export ended with the state 'failed'");
        failed.Error.ShouldContain("the export ran out of space");

        using var other = await StandIn.StartAsync("--rows", "50", "--client-secret", Job.Secret);
        using var unnamed = new Job(other.Address, Lines);
        var foreign = (await unnamed.RunAsync()).ShouldEndWith(5);
        foreign.Error.ShouldContain("a link leaves the API 'exchange'");
        foreign.Error.ShouldContain("also-origins:");
    }

    [Fact]
    public async Task Files_behind_rows_are_kept_and_go_on_where_they_broke_off()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "files-break");
        using var job = new Job(cloud.Address, """
            files: { get: /folders/root/children, rows: /items, paging: { next-link: /next } }
            papers:
              per: { name: file, sql: "select id, content from files where kind = 'file'" }
              carry: { id: /id }
              link: "{file.content}"
              download: "papers/{file.id}.txt"
            """, "r: { sql: \"select id, file, bytes, sha256 from papers order by id\", write: r.csv }");
        (await job.RunAsync()).ShouldEndWith(0);
        var lines = await File.ReadAllLinesAsync(job["reports/r.csv"]);
        lines.Length.ShouldBeGreaterThan(1);
        foreach (var line in lines.Skip(1).Select(line => line.Split(',')))
        {
            var content = await File.ReadAllBytesAsync(job["reports/" + line[1]]);
            content.Length.ShouldBe(200_000);
            Convert.ToHexStringLower(SHA256.HashData(content)).ShouldBe(line[3]);
            System.Text.Encoding.ASCII.GetString(content).Split('\n').SkipLast(1).ShouldAllBe(text => text == line[0] + " of Brackwater Freight");
        }

        (await cloud.StatisticsAsync()).GetProperty("ranges_served").GetInt32().ShouldBeGreaterThan(0);
        Directory.GetFiles(job["reports"], "*.part*", SearchOption.AllDirectories).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("{f.id}.txt", "_._.._evil.txt")]
    [InlineData("deep/{f.id}/{f.name}", "deep/_._.._evil/a_b_c.txt")]
    public async Task Names_that_an_API_gives_never_lead_out_of_the_folder(string to, string kept)
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, $"papers: {{ per: {{ name: f, list: [{{ id: ../../evil, name: 'a/b\\c.txt' }}] }}, get: /files/f1/content, download: '{to}' }}");
        (await job.RunAsync()).ShouldEndWith(0);
        Directory.GetFiles(job["reports"], "*", SearchOption.AllDirectories).ShouldBe([job["reports/" + kept]]);
        Directory.GetFiles(job.Folder, "evil*", SearchOption.AllDirectories).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_place_outside_and_two_files_of_one_name_are_told()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var outside = new Job(cloud.Address, "papers: { get: /files/f1/content, download: ../../out.txt }");
        (await outside.RunAsync()).ShouldEndWith(5).Error.ShouldContain("would be saved outside");
        using var twice = new Job(cloud.Address, "papers: { per: { name: f, list: [f1, f2] }, get: '/files/{f}/content', download: same.txt }");
        (await twice.RunAsync()).ShouldEndWith(5).Error.ShouldContain("two files of pull 'papers' would be saved as same.txt");
        (await cloud.StatisticsAsync()).GetProperty("paths").EnumerateObject().Count().ShouldBeLessThanOrEqualTo(1);
    }

    private static async Task<Job> NewJobAsync(StandIn cloud, string pull) =>
        new(cloud.Address, pull, "all: { sql: select * from p, write: all.jsonl }", api: $"also-origins: {{ '{await cloud.ElsewhereAsync()}': bare }}\n    headers: {{ X-Partner: partner-7 }}");
}
