using System.Diagnostics;

namespace Cursiva.Cli.Tests;

/// <summary>One run on several machines gives what one machine gives, whatever becomes of the machines.</summary>
public sealed class TogetherTests(RealServers servers) : IClassFixture<RealServers>
{
    private const string Scans = """
        tenants: { get: '/tenants?size=50', rows: /items, paging: { next-link: /next } }
        scans: { per: tenants, carry: { tenant: /id }, get: '/tenants/{tenants.id}/scans', rows: /items, paging: { next-link: /next }, parallel: 4, skip-when: [{ status: 403 }] }
        """;

    private const string Reports = "all: { sql: select * from scans, write: [all.csv, all.html] }";

    [Fact]
    public async Task Machines_share_the_strands_and_the_reports_are_those_of_one_machine_and_delivered_once()
    {
        // So slow that one machine alone would need minutes: whatever else this machine has to do, the others are there before it is over.
        using var cloud = await StandIn.StartAsync("--tenants", "60", "--latency", "2000", "--client-secret", Job.Secret);
        using var job = Of(cloud);
        job.Yaml += "\ndeliveries:\n  told: { report: all, message: { address: env:CHANNEL, body: '{{\"text\":\"{run.number}\"}}' } }\n";
        job.Save();
        var channel = ("CHANNEL", (string?)cloud.Address + "/hooks/desk-channel-0815");
        var machines = await Machines.StartAsync(await servers.PostgresAsync(), job.Folder);
        var going = Task.WhenAll(Enumerable.Range(1, 3).Select(i => job.DoAsync(["run", job.Path, "--together"], null, [.. machines.Of($"m{i}"), channel])));
        await machines.UntilAllWorkAsync(3);
        await cloud.DelayAsync(20);
        var runs = await going;
        foreach (var run in runs)
            run.ShouldEndWith(0);
        runs.Count(run => run.Out.Contains("reports/all.csv")).ShouldBe(1);
        var joined = runs.Where(run => run.Out.Contains("This machine fetched ")).ToList();
        joined.Count.ShouldBe(2);
        joined.ShouldAllBe(run => run.Error.Contains("working on run 1 with the machine that began it"));
        joined.Sum(run => int.Parse(run.Out.Split("This machine fetched ")[1].Split(' ')[0])).ShouldBeInRange(2, 59, string.Join("\n", runs.Select(run => run.All)));
        (await cloud.OfficeAsync()).GetProperty("messages").GetArrayLength().ShouldBe(1);

        // Whoever comes a moment late meant this run.
        (await job.DoAsync(["run", job.Path, "--together"], null, [.. machines.Of("m4"), channel])).ShouldEndWith(0).Out.ShouldContain("Run 1 done");
        (await job.DoAsync(["runs", "list", job.Path], null, machines.Of("m4"))).ShouldEndWith(0).Out.ShouldNotContain("removed");
        (await job.DoAsync(["runs", "show", job.Path, "1"], null, machines.Of("m4"))).ShouldEndWith(0).Out.ShouldContain("in the shared state");
        await ShouldBeThatOfOneAsync(job, cloud, 60);
    }

    [Theory]
    [InlineData("kill the first")]
    [InlineData("kill a later one")]
    [InlineData("stop the first")]
    [InlineData("let the first sleep")]
    [InlineData("crash the database")]
    public async Task Whatever_becomes_of_a_machine_the_others_go_on(string fault)
    {
        using var server = await PostgresServer.StartAsync(isDurable: true);
        using var cloud = await StandIn.StartAsync("--tenants", "50", "--latency", "60", "--client-secret", Job.Secret);
        using var job = Of(cloud);

        // A database that crashed needs some seconds on a busy machine; those who wait give up after a lease.
        var machines = await Machines.StartAsync(server, job.Folder, fault == "crash the database" ? "30s" : "3s");
        var first = job.DoAsync(["run", job.Path, "--together"], process => HappenAsync(process, isFirst: true), machines.Of("m1"));
        await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 5);
        var others = Enumerable.Range(2, 2).Select(i => job.DoAsync(["run", job.Path, "--together"], process => HappenAsync(process, isFirst: false), machines.Of($"m{i}"))).ToList();
        var ended = await Task.WhenAll(others.Append(first));
        ended.Count(run => run.Code == 0).ShouldBeGreaterThanOrEqualTo(fault == "crash the database" ? 1 : 2, string.Join("\n", ended.Select(run => run.All)));
        (await job.DoAsync(["runs", "list", job.Path], null, machines.Of("m2"))).ShouldEndWith(0).Out.Split('\n').Count(line => line.Contains(" done ")).ShouldBe(1);
        await ShouldBeThatOfOneAsync(job, cloud, 50);

        async Task HappenAsync(Process process, bool isFirst)
        {
            if (isFirst == (fault == "kill a later one"))
                return;
            await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 60);
            switch (fault)
            {
                case "stop the first" when isFirst:
                    Process.Start("kill", ["-TERM", $"{process.Id}"]).WaitForExit();
                    break;
                case "let the first sleep" when isFirst:
                    Process.Start("kill", ["-STOP", $"{process.Id}"]).WaitForExit();
                    await Task.Delay(6000);
                    Process.Start("kill", ["-CONT", $"{process.Id}"]).WaitForExit();
                    break;
                case "crash the database" when isFirst:
                    await server.CrashAsync();
                    await server.StartAgainAsync();
                    break;
                case "kill the first" when isFirst:
                case "kill a later one" when Interlocked.Increment(ref _killed) == 1:
                    process.Kill();
                    break;
            }
        }
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task Processes_of_one_machine_share_a_run_in_their_state_folder(bool isKilled)
    {
        using var cloud = await StandIn.StartAsync("--tenants", "60", "--latency", "300", "--client-secret", Job.Secret);
        using var job = Of(cloud);
        var first = job.DoAsync(["run", job.Path, "--together"], process => KillAsync(process));
        await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 3);
        var others = Enumerable.Range(2, 2).Select(_ => job.DoAsync(["run", job.Path, "--together"], null)).ToList();
        var ended = await Task.WhenAll(others.Append(first));
        ended.Count(run => run.Code == 0).ShouldBe(isKilled ? 2 : 3, string.Join("\n", ended.Select(run => run.All)));
        ended.Count(run => run.Out.Contains("reports/all.csv")).ShouldBe(1);
        (await job.DoAsync(["runs", "list", job.Path], null)).ShouldEndWith(0).Out.Split('\n').Count(line => line.Contains(" done ")).ShouldBe(1);
        Directory.GetFiles(job["state"], "together.db*", SearchOption.AllDirectories).ShouldBeEmpty("the run is over");
        await ShouldBeThatOfOneAsync(job, cloud, 60);

        async Task KillAsync(Process process)
        {
            if (!isKilled)
                return;
            await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 40);
            process.Kill();
        }
    }

    [Fact]
    public async Task A_stop_asked_for_stops_all_machines_and_a_machine_with_other_inputs_is_told_so()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "300", "--latency", "80", "--client-secret", Job.Secret);
        using var job = Of(cloud);
        job.Yaml = job.Yaml.Replace("parallel: 4", "parallel: 4, query: { since: '{since}' }", StringComparison.Ordinal) + "\ninputs: { since: '2026-03-01' }\n";
        job.Save();
        var machines = await Machines.StartAsync(await servers.PostgresAsync(), job.Folder);
        var first = job.DoAsync(["run", job.Path, "--together"], null, machines.Of("m1"));
        await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 10);
        var second = job.DoAsync(["run", job.Path, "--together"], null, machines.Of("m2"));
        var differs = await job.DoAsync(["run", job.Path, "--together", "--input", "since=2026-03-02"], null, machines.Of("m3"));
        differs.ShouldEndWith(3).Error.ShouldContain("pull 'scans' differs from the one on the machine that began run 1");
        await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 60);
        (await job.DoAsync(["runs", "stop", "late"], null, machines.Of("m4"))).ShouldEndWith(0).Out.ShouldContain("Run 1 of late has stopped");
        (await first).ShouldEndWith(143);
        (await second).ShouldEndWith(143).Error.ShouldContain("on the machine that held it, run 1 ended: stopped on request");
        (await job.DoAsync(["run", job.Path, "--together"], null, machines.Of("m2"))).ShouldEndWith(0).Error.ShouldContain("resuming run 1");
        await ShouldBeThatOfOneAsync(job, cloud, 300);
    }

    [Fact]
    public async Task A_refusal_of_one_strand_ends_the_run_on_every_machine()
    {
        using var cloud = await StandIn.StartAsync("--tenants", "60", "--latency", "30", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Scans.Replace(", skip-when: [{ status: 403 }]", "", StringComparison.Ordinal), Reports);
        var machines = await Machines.StartAsync(await servers.PostgresAsync(), job.Folder);
        var runs = await Task.WhenAll(Enumerable.Range(1, 3).Select(i => job.DoAsync(["run", job.Path, "--together"], null, machines.Of($"m{i}"))));
        foreach (var run in runs)
            run.ShouldEndWith(5);

        // One that comes when the others have ended resumes the run, and is refused as well.
        runs.ShouldContain(run => run.Error.Contains("skip such tenants in the job: skip-when: [{ status: 403 }]"));
        File.Exists(job["reports/all.csv"]).ShouldBeFalse();
    }

    private static int _killed;

    private static Job Of(StandIn cloud) => new(cloud.Address, Scans, Reports);

    // The same world, without the way to it.
    private static async Task ShouldBeThatOfOneAsync(Job job, StandIn cloud, int tenants)
    {
        var together = await File.ReadAllTextAsync(job["reports/all.csv"]);
        using var quick = await StandIn.StartAsync("--tenants", $"{tenants}", "--client-secret", Job.Secret);
        job.Yaml = job.Yaml.Replace(cloud.Address, quick.Address, StringComparison.Ordinal);
        job.Save();
        Directory.Delete(job["reports"], recursive: true);
        (await job.DoAsync(["run", job.Path, "--new", "--no-deliveries"], null, ("CHANNEL", "http://127.0.0.1:1/nobody"))).ShouldEndWith(0);
        var alone = await File.ReadAllTextAsync(job["reports/all.csv"]);
        var (ofAll, ofOne) = (together.Split('\n'), alone.Split('\n'));
        ofAll.Except(ofOne).ShouldBeEmpty("lines that one machine does not write");
        ofOne.Except(ofAll).ShouldBeEmpty("lines that only one machine writes");
        (alone == together).ShouldBeTrue($"the same lines in another order or number: {ofAll.Length} together, {ofOne.Length} of one machine");
    }
}
