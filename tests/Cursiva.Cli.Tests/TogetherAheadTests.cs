namespace Cursiva.Cli.Tests;

/// <summary>Counted pages of one listing, and parts of one export, are fetched by every machine that works on the run.</summary>
public sealed class TogetherAheadTests(RealServers servers) : IClassFixture<RealServers>
{
    private const string Export = "p: { post: '/exports?form=lines', body: { what: consignments }, export: { state: /state, done: [ready], failed: [failed], files: /parts, link: /url } }";

    [Theory]
    [InlineData("p: { get: '/by/page?tell=pages', rows: /items, paging: { page-number: 1, parameter: page, pages: /pages }, parallel: 3 }", "", 2)]
    [InlineData("p: { get: '/by/offset?tell=total', rows: /items, paging: { offset: 0, parameter: offset, page-size: 20, size-parameter: limit, total: /total }, parallel: 3 }", "", 2)]
    [InlineData(Export, "", 1)]
    [InlineData(Export, "parts-break", 0)]
    public async Task Pages_and_parts_are_fetched_by_all_machines_and_landed_in_their_order(string pull, string quirk, int least)
    {
        string[] world = ["--rows", "1500", "--page-size", "20", "--client-secret", Job.Secret, .. quirk.Length > 0 ? new[] { "--quirk", quirk } : []];
        using var cloud = await StandIn.StartAsync([.. world, "--latency", "1500"]);
        using var job = await JobAsync(cloud, pull);
        var machines = await Machines.StartAsync(await servers.PostgresAsync(), job.Folder);
        var going = Task.WhenAll(Enumerable.Range(1, 3).Select(i => job.DoAsync(["run", job.Path, "--together"], null, machines.Of($"m{i}"))));

        // The first of them fetches pages of its own, too; the others are there before it is over, whatever else this machine has to do.
        if (least > 0)
            await machines.UntilAllWorkAsync(least + 1);
        await cloud.DelayAsync(20);
        var runs = await going;
        foreach (var run in runs)
            run.ShouldEndWith(0);
        runs.Where(run => run.Out.Contains("This machine fetched ")).Sum(run => int.Parse(run.Out.Split("This machine fetched ")[1].Split(' ')[0])).ShouldBeGreaterThanOrEqualTo(least, string.Join("\n", runs.Select(run => run.All)));
        (await cloud.StatisticsAsync()).GetProperty("credentials_elsewhere").GetInt32().ShouldBe(0);
        (await machines.AskAsync("select (select count(*) from cursiva.queue), count(*) from cursiva.pages p join cursiva.landings l on l.id = p.landing where l.name like '%-ahead'")).ShouldBe("0|0");

        var together = await File.ReadAllTextAsync(job["reports/all.jsonl"]);
        using var quick = await StandIn.StartAsync(world);
        using var alone = await JobAsync(quick, pull);
        (await alone.RunAsync()).ShouldEndWith(0);
        (await File.ReadAllTextAsync(alone["reports/all.jsonl"]) == together).ShouldBeTrue();
        together.Split('\n', StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(1500);
    }

    private static async Task<Job> JobAsync(StandIn cloud, string pull) => new(
        cloud.Address, pull, "all: { sql: select * from p, write: all.jsonl }", api: $"also-origins: {{ '{await cloud.ElsewhereAsync()}': bare }}\n    headers: {{ X-Partner: partner-7 }}");
}
