using System.Diagnostics;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>One state for several machines: what holds among the processes of one holds among them.</summary>
public sealed class MachinesTests(RealServers servers) : IClassFixture<RealServers>
{
    private const string Scans = """
        tenants: { get: '/tenants?size=50', rows: /items, paging: { next-link: /next } }
        scans: { per: tenants, carry: { tenant: /id }, get: '/tenants/{tenants.id}/scans', rows: /items, paging: { next-link: /next }, parallel: 4, skip-when: [{ status: 403 }] }
        """;

    private const string All = "all: { sql: select * from scans, write: [all.csv, all.html] }";

    [Fact]
    public async Task A_job_runs_on_one_machine_at_a_time_and_another_one_resumes_what_a_dead_one_began()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "60", "--latency", "60", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Scans, All);
        var machines = await Machines.StartAsync(await servers.PostgresAsync(), job.Folder);
        var killed = await job.DoAsync(["run", job.Path], async process =>
        {
            await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 60);
            var refused = (await job.DoAsync(["run", job.Path], null, machines.Of("m2"))).ShouldEndWith(10);
            refused.Error.ShouldContain($"the job is already running: process {process.Id} on {Environment.MachineName}, since ");
            refused.Error.ShouldContain("if its machine died, the job is free 3.0 s after its last sign of life");
            (await job.DoAsync(["runs", "watch", "late"], async watch => { await Task.Delay(1500); process.Kill(); }, machines.Of("m2"))).ShouldEndWith(0).Out.ShouldContain("Z run 1 pulls: tenants 60 rows");
        }, machines.Of("m1"));
        killed.Code.ShouldBe(137);
        var resumed = await RunSoonAsync(job, machines.Of("m2"));
        resumed.Error.ShouldContain("resuming run 1");
        resumed.Error.ShouldContain("pull tenants: resumed after 60 landed rows");
        var reports = Directory.GetFiles(job["reports"]).ToDictionary(file => Path.GetFileName(file), File.ReadAllBytes);
        Directory.Delete(job["reports"], recursive: true);

        // Neither machine has all of its rows from itself: the reports are those of one that does.
        (await job.DoAsync(["report", job.Path], null, machines.Of("m1"))).ShouldEndWith(0);
        Csv(job).ShouldBe(Text(reports["all.csv"]));
        (await job.RunAsync("--new")).ShouldEndWith(0);
        Csv(job).ShouldBe(Text(reports["all.csv"]));
        (await job.DoAsync(["runs", "list", job.Path], null, machines.Of("m3"))).ShouldEndWith(0).Out.Split('\n').Count(line => line.Contains(" done ")).ShouldBe(1);
    }

    [Fact]
    public async Task Incremental_jobs_go_on_and_deliveries_leave_on_whichever_machine_comes_next()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, """
            vehicles: { get: /vehicles, query: { since: "{mark}" }, rows: /items, paging: { next-link: /links/next }, key: /id, incremental: { by: /changed_at } }
            """, "all: { sql: select * from vehicles order by id, write: [all.csv] }");
        job.Yaml += "\ndeliveries:\n  to-the-channel: { report: all, message: { address: env:CHANNEL, body: '{{\"text\":\"{run.number}\"}}' } }\n";
        job.Save();
        var machines = await Machines.StartAsync(await servers.PostgresAsync(), job.Folder);
        var nobody = ("CHANNEL", (string?)"http://127.0.0.1:1/nobody");
        (await job.DoAsync(["run", job.Path], null, [.. machines.Of("m1"), nobody])).ShouldEndWith(9);
        var first = Csv(job);
        await cloud.NextDayAsync();
        var before = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32();
        (await job.DoAsync(["run", job.Path], null, [.. machines.Of("m2"), nobody])).ShouldEndWith(9);
        var second = Csv(job);
        second.Split('\n').Length.ShouldBe(first.Split('\n').Length);
        second.ShouldNotBe(first);
        ((await cloud.StatisticsAsync()).GetProperty("requests").GetInt32() - before).ShouldBeLessThan(before);
        (await job.DoAsync(["runs", "compare", job.Path, "1", "2"], null, machines.Of("m3"))).ShouldEndWith(0).Out.ShouldContain("changed");

        var sent = (await job.DoAsync(["deliver", job.Path], null, [.. machines.Of("m3"), ("CHANNEL", cloud.Address + "/hooks/desk-channel-0815")])).ShouldEndWith(0);
        sent.Out.ShouldContain("to-the-channel-1");
        sent.Out.ShouldContain("to-the-channel-2");
        (await job.DoAsync(["ledger", job.Path], null, machines.Of("m1"))).ShouldEndWith(0).Out.Split('\n').Count(line => line.Contains("sent")).ShouldBe(2);
        (await machines.AskAsync("select count(*) from cursiva.files")).ShouldBe("0");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_limit_holds_over_machines_whose_clocks_are_an_hour_apart(bool apart)
    {
        const string Faketime = "/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1";
        Assert.SkipUnless(!apart || File.Exists(Faketime), "libfaketime is not installed; on Debian: apt-get install libfaketime");
        using var cloud = await StandIn.StartAsync("--tenants", "12", "--limit", "25/1", "--latency", "5", "--jitter", "60", "--client-secret", Job.Secret);
        var jobs = Enumerable.Range(0, 3).Select(i => new Job(cloud.Address, Scans, api: "limits: { at-most: 25 per second }", top: $"name: job-{i}")).ToList();
        try
        {
            var machines = await Machines.StartAsync(await servers.PostgresAsync(), jobs[0].Folder);
            var began = Stopwatch.GetTimestamp();

            // The clock of waits is left alone: what libfaketime does to it delays every process.
            var runs = await Task.WhenAll(jobs.Select((job, i) => job.DoAsync(["run", job.Path], null, [.. machines.Of($"m{i}"), .. apart ? new[] { ("LD_PRELOAD", (string?)Faketime), ("FAKETIME", $"{(i - 1) * 3600:+0;-0}"), ("FAKETIME_DONT_FAKE_MONOTONIC", "1"), ("FAKETIME_FORCE_MONOTONIC_FIX", "0") } : []])));
            foreach (var run in runs)
                run.ShouldEndWith(0);
            var seen = await cloud.StatisticsAsync();
            seen.GetProperty("breaches").GetInt32().ShouldBe(0);
            var ideal = seen.GetProperty("requests").GetInt32() / (25 / 1.0325);
            Stopwatch.GetElapsedTime(began).TotalSeconds.ShouldBeLessThan((ideal * 1.5) + 5, "the limit was hardly used");
        }
        finally
        {
            jobs.ForEach(job => job.Dispose());
        }
    }

    [Fact]
    public async Task A_database_that_restarts_stops_no_run_and_one_that_stays_away_leaves_it_to_be_resumed()
    {
        using var server = await PostgresServer.StartAsync(isDurable: true);
        using var cloud = await StandIn.StartAsync("--tenants", "60", "--latency", "60", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Scans, All);
        var machines = await Machines.StartAsync(server, job.Folder, "8s");
        var went = (await job.DoAsync(["run", job.Path], async process =>
        {
            await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 40);
            await server.CrashAsync();
            await Task.Delay(1500);
            await server.StartAgainAsync();
        }, machines.Of("m1"))).ShouldEndWith(0);
        went.Error.ShouldContain("does not answer");
        went.Error.ShouldContain("answers again");
        var whole = Csv(job);

        var requests = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32();
        var stopped = (await job.DoAsync(["run", job.Path], async process =>
        {
            await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > requests + 40);
            await server.CrashAsync();
        }, machines.Of("m1"))).ShouldEndWith(7);
        stopped.Error.ShouldContain("; what has arrived is kept");
        stopped.Error.ShouldContain("next:     run again to resume it, on this machine or another one");
        await server.StartAgainAsync();
        (await RunSoonAsync(job, machines.Of("m2"))).Error.ShouldContain("resuming run 2");
        Csv(job).ShouldBe(whole);
    }

    [Fact]
    public async Task Secrets_are_kept_for_every_machine_that_has_the_key_and_a_machine_without_it_is_told_how_to_get_it()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "20", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, "tenants: { get: /tenants, rows: /items, paging: { next-link: /next } }");
        job.Yaml = job.Yaml.Replace("env:BRACKWATER_SECRET", "kept:brackwater", StringComparison.Ordinal);
        job.Save();
        var machines = await Machines.StartAsync(await servers.PostgresAsync(), job.Folder);
        (string, string?)[] one = [.. machines.Of("m1").Where(pair => pair.Name != "CURSIVA_STORE_KEY")];
        (string, string?)[] other = [.. machines.Of("m2").Where(pair => pair.Name != "CURSIVA_STORE_KEY")];
        (await App.RunAsync(App.Cursiva, ["secret", "keep", "brackwater"], job.Folder, one, input: Job.Secret)).ShouldEndWith(0);
        var refused = (await job.DoAsync(["run", job.Path], null, other)).ShouldEndWith(4);
        refused.Error.ShouldContain($"this machine does not have the store's key ({job["m2/store.key"]} does not exist)");
        refused.Error.ShouldContain($"copy the key from a machine that has it to {job["m2/store.key"]} (mode 600)");
        Directory.CreateDirectory(job["m2"]);
        File.Copy(job["m1/store.key"], job["m2/store.key"]);
        (await job.DoAsync(["run", job.Path], null, other)).ShouldEndWith(0);
        (await job.DoAsync(["run", job.Path], null, [.. other, ("CURSIVA_STORE_KEY", Machines.Key)])).ShouldEndWith(4).Error.ShouldContain("is a different one");
        var all = await machines.AskAsync("select encode(document, 'escape') from cursiva.documents");
        all.ShouldNotContain(Job.Secret);
        all.ShouldNotContain(File.ReadAllText(job["m1/store.key"]).Trim());
    }

    [Fact]
    public async Task Rotating_refresh_tokens_are_spent_by_one_machine_at_a_time()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--answers-after", "300", "--token-lifetime", "1");
        using var job = new SignInJob(cloud.Address, "grant: refresh_token\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET\ntoken-endpoint: '{cloud}/oauth2/token'\nrefresh-token: env:SEED");
        job.Variables["SEED"] = await cloud.SeedAsync();
        var machines = await Machines.StartAsync(await servers.PostgresAsync(), job.Folder);
        (string, string?)[] own = [.. job.Variables.Select(pair => (pair.Key, pair.Value))];
        var got = await Task.WhenAll(Enumerable.Range(0, 8).Select(i => App.RunAsync(App.Cursiva, ["token", "get", job.Path], job.Folder, [.. own, .. machines.Of($"m{i % 4}")])));
        foreach (var one in got)
            one.ShouldEndWith(0);
        var seen = await cloud.StatisticsAsync();
        seen.GetProperty("families_ended_carelessly").GetInt32().ShouldBe(0);
        seen.GetProperty("renewals").GetInt32().ShouldBeGreaterThan(1);
    }

    [Fact]
    public async Task The_schema_is_made_by_an_administrator_once_and_jobs_may_change_nothing_of_it()
    {
        var server = await servers.PostgresAsync();
        using var folder = new TemporaryFolder();
        var machines = await Machines.StartAsync(server, folder.Path);
        (await server.AskAsync("select version from cursiva.version", machines.Database)).ShouldBe("1");
        foreach (var sql in new[] { "create table cursiva.mine (x int)", "drop table cursiva.documents", "update cursiva.version set version = 9", "truncate cursiva.pages" })
            (await App.RunAsync("psql", ["-X", "-h", "127.0.0.1", "-p", $"{server.Port}", "-U", "jobs", machines.Database, "-c", sql], folder.Path, [("PGPASSWORD", PostgresServer.Password)])).Error.ShouldMatch("permission denied|must be owner");

        // What is printed does the same.
        var printed = (await App.RunAsync(App.Cursiva, ["state", "init", "--print", "--role", "export jobs"], folder.Path, [])).ShouldEndWith(0).Out;
        var other = await server.DatabaseAsync();
        await server.AskAsync(printed, other);
        (await server.AskAsync("select has_table_privilege('export jobs', 'cursiva.documents', 'insert'), has_table_privilege('export jobs', 'cursiva.version', 'insert')", other)).ShouldBe("t|f");

        var old = (await App.RunAsync(App.Cursiva, ["state", "show", "--format", "json"], folder.Path, machines.Of("m1"))).ShouldEndWith(0);
        JsonDocument.Parse(old.Out).RootElement.GetProperty("folder").GetString().ShouldBe(folder["m1"]);
        await server.AskAsync("update cursiva.version set version = 99", machines.Database);
        (await App.RunAsync(App.Cursiva, ["state", "show"], folder.Path, machines.Of("m1"))).ShouldEndWith(1).Error.ShouldContain("the schema of the shared state has version 99, but this Cursiva needs 1");
    }

    // What the dead machine held is free when its lease is over.
    private static async Task<Ended> RunSoonAsync(Job job, (string, string?)[] machine)
    {
        for (var attempt = 0; ; attempt++)
        {
            var ended = await job.DoAsync(["run", job.Path], null, machine);
            if (ended.Code != 10)
                return ended.ShouldEndWith(0);
            attempt.ShouldBeLessThan(30, ended.Error);
            await Task.Delay(500);
        }
    }

    private static string Csv(Job job) => File.ReadAllText(job["reports/all.csv"]);

    private static string Text(byte[] bytes) => System.Text.Encoding.UTF8.GetString(bytes);
}
