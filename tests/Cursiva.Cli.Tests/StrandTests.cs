using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Pulls that are repeated: for rows, lists, files and queries, with identities of their own, skips, and trees.</summary>
public sealed class StrandTests
{
    private const string Tenants = "tenants: { get: /tenants, rows: /items, paging: { next-link: /next } }";

    private const string Scans = """
        scans:
          per: tenants
          carry: { tenant: /id, name: /name }
          get: /tenants/{tenants.id}/scans
          rows: /items
          paging: { next-link: /next }
          skip-when: [{ status: 403, at: /code, is: no_licence, because: the tenant has no licence }]
        """;

    [Fact]
    public async Task One_tenant_without_a_licence_never_stops_the_others()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "200", "--latency", "3", "--jitter", "6", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Tenants + "\n" + Scans, """
            scans: { sql: "select tenant, name, id from scans", write: scans.jsonl }
            count: { sql: "select count(*) as n, count(distinct tenant) as t from scans", write: count.csv }
            skips: { sql: "select pull, strand ->> 'tenants.id' as tenant, status, because, said from skips", write: skips.csv }
            """);
        var ended = (await job.RunAsync()).ShouldEndWith(0);
        ended.Out.ShouldContain("200 strands (5 skipped)");
        ended.Out.ShouldContain("the tenant has no licence");
        (await File.ReadAllTextAsync(job["reports/count.csv"])).ShouldBe("n,t\r\n4875,195\r\n");
        var skips = await File.ReadAllLinesAsync(job["reports/skips.csv"]);
        skips.Length.ShouldBe(6);
        skips[1].ShouldBe("scans,T0013,403,the tenant has no licence,\"{\"\"code\"\":\"\"no_licence\"\",\"\"message\"\":\"\"tenant T0013 has no licence for scans\"\"}\"");

        // In the order of the tenants, however their strands ran side by side.
        var tenants = File.ReadLines(job["reports/scans.jsonl"]).Select(line => JsonDocument.Parse(line).RootElement.GetProperty("id").GetString()!).ToList();
        tenants.ShouldBe(tenants.Order(StringComparer.Ordinal));
        (await cloud.StatisticsAsync()).GetProperty("most_at_once").GetInt32().ShouldBeGreaterThan(3);
    }

    [Fact]
    public async Task A_refused_strand_names_the_rule_that_skips_it_and_the_rule_works()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "20", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Tenants + "\n" + Scans[..Scans.IndexOf("skip-when", StringComparison.Ordinal)], "n: { sql: select count(*) as n from scans, write: n.csv }");
        var said = (await job.RunAsync()).ShouldEndWith(5).Error;
        var rule = System.Text.RegularExpressions.Regex.Match(string.Join(' ', said.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)), @"(skip-when: \[\{ status: 403 \}\])");
        rule.Success.ShouldBeTrue(said);
        job.Yaml = job.Yaml.Replace("carry: { tenant: /id, name: /name }", "carry: { tenant: /id, name: /name }\n    " + rule.Groups[1].Value);
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0).Out.ShouldContain("20 strands (1 skipped)");
    }

    [Theory]
    [InlineData("4", 6)]
    [InlineData("5", 0)]
    [InlineData("2%", 6)]
    [InlineData("2.5%", 0)]
    public async Task More_skips_than_the_job_allows_end_with_6_and_only_they_are_asked_again(string allowed, int code)
    {
        using var cloud = await StandIn.StartAsync("--tenants", "200", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Tenants + "\n" + Scans + $"\n  allow-skips: {allowed}", "n: { sql: select count(*) as n from scans, write: n.csv }");
        var ended = (await job.RunAsync()).ShouldEndWith(code);
        if (code == 0)
            return;
        ended.Error.ShouldContain($"pull 'scans' skipped 5 of 200 strands, but the job allows {allowed}");
        ended.Error.ShouldContain("5 x the tenant has no licence");
        File.Exists(job["reports/n.csv"]).ShouldBeFalse();
        var before = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32();
        (await job.RunAsync()).ShouldEndWith(6).Error.ShouldContain("resuming run 1");
        ((await cloud.StatisticsAsync()).GetProperty("requests").GetInt32() - before).ShouldBeInRange(5, 11, "a 403 under the token of the run before is asked about once more with a fresh one, by each strand that is under way");
    }

    [Fact]
    public async Task Strands_start_while_the_parent_is_still_paging()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "60", "--latency", "150", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "tenants: { get: '/tenants?size=10', rows: /items, paging: { next-link: /next } }\n" + Scans);
        await job.DoAsync(["run", job.Path], async process =>
        {
            await cloud.UntilAsync(seen => seen.GetProperty("paths").TryGetProperty("/v2/tenants/T0001/scans", out _));
            (await cloud.StatisticsAsync()).GetProperty("paths").GetProperty("/v2/tenants").GetInt32().ShouldBeLessThan(6);
            process.Kill();
        });
    }

    [Fact]
    public async Task Every_tenant_signs_in_as_itself_at_an_endpoint_of_its_own()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "70", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, """
            scans:
              per: { name: tenant, file: tenants.csv }
              carry: { tenant: /id, region: /region }
              identity: tenant-app
              get: /tenants/{tenant.id}/scans
              rows: /items
              paging: { next-link: /next }
              skip-when:
                - { status: 403, at: /code, is: no_licence, because: no licence }
                - { sign-in: unauthorized_client, because: the tenant has not approved us }
            """, """
            by: { sql: "select region, count(distinct tenant) as tenants, count(*) as n from scans group by 1 order by 1", write: by.csv }
            skips: { sql: "select strand ->> 'tenant.id' as tenant, status, because from skips order by 1", write: skips.csv }
            """);
        job.Yaml = job.Yaml.Replace("apis:", $$"""
              tenant-app:
                grant: client_credentials
                token-endpoint: "{{cloud.Address}}/tenants/{tenant.id}/oauth2/token"
                client-id: tenant-{tenant.id}
                secret: file:secrets.json#/{tenant.id}
            apis:
            """);
        job.Save();
        var tenants = Enumerable.Range(1, 40).Select(n => $"T{n:D4}").ToList();
        await File.WriteAllTextAsync(job["tenants.csv"], "id,region\r\n" + string.Concat(tenants.Select((id, i) => $"{id},\"{(i % 2 == 0 ? "north, east" : "south")}\"\r\n")));
        await File.WriteAllTextAsync(job["secrets.json"], JsonSerializer.Serialize(tenants.ToDictionary(id => id, id => $"{Job.Secret}-{id}")));
        (await job.RunAsync()).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/by.csv"])).ShouldBe("region,tenants,n\r\n\"north, east\",19,475\r\nsouth,19,475\r\n");
        (await File.ReadAllTextAsync(job["reports/skips.csv"])).ShouldBe("tenant,status,because\r\nT0013,403,no licence\r\nT0034,0,the tenant has not approved us\r\n");
        (await cloud.StatisticsAsync()).GetProperty("token_requests").GetInt32().ShouldBe(40);
    }

    [Fact]
    public async Task Pulls_are_repeated_for_lists_queries_and_strands_of_strands()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "5", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, """
            scans:
              per: { name: tenant, list: [T0001, T0003] }
              get: /tenants/{tenant}/scans
              query: { size: 20 }
              rows: /items
            events:
              per: scans
              carry: { pieces: /pieces }
              get: /tenants/{tenant}/scans/{scans.id}/events
              rows: ""
            again:
              per: { name: busy, sql: "select id, depot from scans where pieces > 30 order by id" }
              carry: { depot: /depot }
              get: /tenants/T0001/scans/{busy.id}/events
              rows: ""
            """, """
            e: { sql: "select count(*) as n, count(distinct scan) as s, sum(pieces) as p from events", write: e.csv }
            a: { sql: "select (select count(*) from again) as n, (select 2 * count(*) from scans where pieces > 30) as m", write: a.csv }
            """);
        (await job.RunAsync()).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/e.csv"])).ShouldStartWith("n,s,p\r\n80,40,");
        var counts = (await File.ReadAllLinesAsync(job["reports/a.csv"]))[1].Split(',');
        counts[0].ShouldBe(counts[1]);
        int.Parse(counts[0]).ShouldBeGreaterThan(0);
    }

    [Fact]
    public async Task A_tree_of_unknown_depth_is_walked_once()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = Tree(cloud);
        (await job.RunAsync()).ShouldEndWith(0);
        var (folders, rows) = await WalkAsync(cloud, "root");
        var summary = await File.ReadAllTextAsync(job["reports/n.csv"]);
        summary.ShouldBe($"n,folders\r\n{rows},{folders - 1}\r\n");
    }

    [Fact]
    public async Task A_circle_of_folders_is_told_and_ends()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "folder-circle");
        using var job = Tree(cloud);
        (await job.RunAsync()).ShouldEndWith(0).Error.ShouldContain("pull 'folders' has a circle: folders.id f0 leads back to itself");
    }

    [Fact]
    public async Task A_row_without_the_value_that_a_path_needs_is_told()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "2", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Tenants + "\n" + Scans.Replace("{tenants.id}", "{tenants.number}"));
        (await job.RunAsync()).ShouldEndWith(5).Error.ShouldContain("a strand of pull 'scans' has no value for {tenants.number}");
    }

    [Fact]
    public async Task Mistakes_in_what_a_pull_is_repeated_for_are_told_before_any_request()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, """
            a: { per: b, get: '/x/{b.id}', rows: '' }
            b: { per: { name: n, sql: select id from c }, get: '/x/{n.id}/{m.id}', rows: '', carry: { id: id } }
            c: { per: { name: late, sql: select from }, get: '/x/{late}', rows: '', paging: { cursor: /c, next-link: /n } }
            d: { get: /x, rows: '', carry: { x: /x }, allow-skips: 5, download: 'a/{run}' }
            """);
        var ended = (await job.RunAsync()).ShouldEndWith(3);
        foreach (var text in new[] { "no pull above is named 'b'", "no input is named 'm.id'", "must be a JSON Pointer, not 'id'", "has both cursor and next-link", "carry without per", "allow-skips without skip-when", "no input is named 'run'" })
            ended.Error.ShouldContain(text);
        using var other = new Job(cloud.Address, "a: { get: /depots, rows: /items }\nb: { per: { name: n, sql: select id from c }, get: '/x/{n.id}', rows: '' }");
        (await other.RunAsync()).ShouldEndWith(3).Error.ShouldContain("the query of pull 'b' reads the table 'c', but no pull above has this name");
        (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task Strands_that_have_ended_are_not_asked_again_and_a_file_that_changed_meanwhile_changes_nothing()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "30", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, """
            scans:
              per: { name: tenant, file: tenants.csv }
              get: /tenants/{tenant.id}/scans
              rows: /items
              paging: { next-link: /next }
              parallel: 3
              skip-when: [{ status: 403 }]
            """, "n: { sql: \"select count(*) as n, count(distinct id) as ids from scans\", write: n.csv }");
        await File.WriteAllTextAsync(job["tenants.csv"], "id\n" + string.Concat(Enumerable.Range(1, 20).Select(n => $"T{n:D4}\n")));
        int? askedWhenSkipped = null;
        async Task<Ended> StartAsync(params string[] arguments)
        {
            var ended = await job.RunAsync(arguments);
            if (ended.Error.Contains("skipped tenant.id T0013"))
            {
                askedWhenSkipped.ShouldBeNull();
                askedWhenSkipped = (await cloud.StatisticsAsync()).GetProperty("paths").GetProperty("/v2/tenants/T0013/scans").GetInt32();
            }

            return ended;
        }

        for (var start = 0; start < 3; start++)
        {
            (await StartAsync("--max-requests", "25")).ShouldEndWith(7);
            await File.WriteAllTextAsync(job["tenants.csv"], "id\nT0025\n");
        }

        (await StartAsync()).ShouldEndWith(0).Error.ShouldContain("resuming run 1");
        (await File.ReadAllTextAsync(job["reports/n.csv"])).ShouldBe("n,ids\r\n475,475\r\n");
        var paths = (await cloud.StatisticsAsync()).GetProperty("paths");
        paths.TryGetProperty("/v2/tenants/T0025/scans", out _).ShouldBeFalse();
        paths.GetProperty("/v2/tenants/T0013/scans").GetInt32().ShouldBe(askedWhenSkipped.ShouldNotBeNull());

        // 19 tenants of five pages and one refusal; at each of three stops a page ahead may have been lost for each of three strands.
        paths.EnumerateObject().Where(path => path.Name.EndsWith("/scans")).Sum(path => path.Value.GetInt32()).ShouldBeInRange(96, 96 + 18);
    }

    [Fact]
    public async Task Each_tenant_may_have_a_refresh_token_of_its_own()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "3", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, """
            scans: { per: { name: tenant, list: [north, south] }, identity: person, get: /tenants/T0001/scans, rows: /items }
            """, "n: { sql: select count(*) as n from scans, write: n.csv }");
        job.Yaml = job.Yaml.Replace("apis:", $$"""
              person:
                grant: refresh_token
                token-endpoint: {{cloud.Address}}/oauth2/token
                client-id: brackwater-demo
                secret: env:BRACKWATER_SECRET
                refresh-token: file:seeds.json#/{tenant}
            apis:
            """);
        job.Save();
        await File.WriteAllTextAsync(job["seeds.json"], $$"""{"north":"{{await cloud.SeedAsync("person-north")}}","south":"{{await cloud.SeedAsync("person-south")}}"}""");
        (await job.RunAsync()).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/n.csv"])).ShouldBe("n\r\n10\r\n");
        (await cloud.StatisticsAsync()).GetProperty("renewals").GetInt32().ShouldBe(2);
    }

    private static Job Tree(StandIn cloud) => new(cloud.Address, """
        folders:
          get: /folders/root/children
          rows: /items
          paging: { next-link: /next }
          opens: { when: { /kind: folder }, get: "/folders/{folders.id}/children" }
        """, "n: { sql: \"select count(*) as n, count(*) filter (where kind = 'folder') as folders from folders\", write: n.csv }");

    private static async Task<(int Folders, int Rows)> WalkAsync(StandIn cloud, string folder)
    {
        var (folders, rows) = (1, 0);
        for (string? next = $"/v2/folders/{folder}/children"; next is not null;)
        {
            var page = await cloud.PageAsync(next);
            foreach (var row in page.GetProperty("items").EnumerateArray())
            {
                rows++;
                if (row.GetProperty("kind").GetString() != "folder")
                    continue;
                var (more, below) = await WalkAsync(cloud, row.GetProperty("id").GetString()!);
                folders += more;
                rows += below;
            }

            next = page.GetProperty("next").GetString();
        }

        return (folders, rows);
    }
}
