using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>The state folder: what it takes, whether it is whole, copies of it, and a move to another machine.</summary>
public sealed class StateCommandTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly StandIn _cloud = StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "4000").GetAwaiter().GetResult();

    public void Dispose()
    {
        _cloud.Dispose();
        _folder.Dispose();
    }

    [Fact]
    public async Task A_copy_that_is_made_during_a_run_is_resumed_elsewhere_to_the_same_bytes()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "12000", "--latency", "30");
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        (await App.RunAsync(App.Cursiva, ["secret", "keep", "kept-one"], job.Folder, job.Environment, input: "a kept value")).ShouldEndWith(0);
        job.Yaml = job.Yaml.Replace("secret: env:BRACKWATER_SECRET", "secret: [kept:kept-one, env:BRACKWATER_SECRET]");
        job.Save();
        var backup = _folder["backup"];
        (await job.DoAsync(["run", job.Path], async process =>
        {
            await cloud.UntilAsync(statistics => statistics.GetProperty("requests").GetInt32() > 60);
            await Task.Delay(600);
            (await job.DoAsync(["state", "backup", backup])).ShouldEndWith(0).Out.ShouldContain("The store's key is not included");
            process.HasExited.ShouldBeFalse("the copy was made during the run");
        })).ShouldEndWith(0);
        var whole = File.ReadAllBytes(job["reports/all.csv"]);
        Directory.GetFiles(backup, "*", SearchOption.AllDirectories).ShouldNotContain(path => path.EndsWith("store.key", StringComparison.Ordinal));

        // On another machine, with the key brought there by another way.
        var elsewhere = _folder["elsewhere"];
        var restored = (await job.DoAsync(["state", "restore", backup, "--state", elsewhere])).ShouldEndWith(0).Out;
        restored.ShouldContain("It has 1 kept secret, and their key was");
        (await job.DoAsync(["run", job.Path, "--state", elsewhere])).ShouldEndWith(4).Error.ShouldContain("this state was restored from a backup, and its key was");
        File.Exists(Path.Combine(elsewhere, "store.key")).ShouldBeFalse();
        File.Copy(job["state/store.key"], Path.Combine(elsewhere, "store.key"), overwrite: true);
        File.Delete(job["reports/all.csv"]);
        (await job.DoAsync(["run", job.Path, "--state", elsewhere])).ShouldEndWith(0).Out.ShouldContain("landed before the stop");
        File.ReadAllBytes(job["reports/all.csv"]).ShouldBe(whole);

        (await job.DoAsync(["state", "restore", backup, "--state", elsewhere])).ShouldEndWith(2).Error.ShouldContain("there is already a state in");
        (await job.DoAsync(["state", "backup", backup])).ShouldEndWith(2).Error.ShouldContain("is not empty");
        (await job.DoAsync(["state", "restore", _folder["nowhere"], "--state", _folder["new"]])).ShouldEndWith(2).Error.ShouldContain("is not a backup");
    }

    [Fact]
    public async Task Every_page_is_compared_with_its_checksum()
    {
        using var job = new Job(_cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.RunAsync()).ShouldEndWith(0);
        (await job.DoAsync(["state", "verify"])).ShouldEndWith(0).Out.ShouldContain("Verified 80 pages of 1 landing: all as they were written.");
        var sizes = JsonDocument.Parse((await job.DoAsync(["state", "show", "--format", "json"])).ShouldEndWith(0).Out).RootElement;
        var line = sizes.GetProperty("jobs")[0];
        (line.GetProperty("job").GetString(), line.GetProperty("runs").GetInt32(), line.GetProperty("landings").GetInt32()).ShouldBe(("late", 1, 1));
        line.GetProperty("landed-bytes").GetInt64().ShouldBeGreaterThan(500_000);

        var segment = Directory.GetFiles(job["state/jobs/late/runs/000001/landing/consignments"]).Single();
        var bytes = File.ReadAllBytes(segment);
        bytes[bytes.Length / 2] ^= 1;
        File.WriteAllBytes(segment, bytes);
        var damaged = (await job.DoAsync(["state", "verify"])).ShouldEndWith(1);
        damaged.Out.ShouldContain("of pull 'consignments' is damaged in");
        damaged.Error.ShouldContain("cursiva state restore");
        File.Delete(segment);
        (await job.DoAsync(["state", "verify"])).ShouldEndWith(1).Out.ShouldContain("is gone");
        (await job.DoAsync(["state", "verify", "--state", _folder["none"]])).ShouldEndWith(2).Error.ShouldContain("there is no state in");
    }

    [Fact]
    public async Task A_damaged_copy_and_one_that_leads_elsewhere_are_not_put_in_place()
    {
        using var job = new Job(_cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.RunAsync()).ShouldEndWith(0);
        (await job.DoAsync(["state", "backup", _folder["b"]])).ShouldEndWith(0);
        var record = File.ReadAllText(_folder["b/backup.json"]);
        File.WriteAllText(_folder["b/backup.json"], record.Replace("\"path\": \"jobs/", "\"path\": \"../jobs/"));
        (await job.DoAsync(["state", "restore", _folder["b"], "--state", _folder["new"]])).ShouldEndWith(2);
        Directory.Exists(_folder["jobs"]).ShouldBeFalse();
        File.WriteAllText(_folder["b/backup.json"], record);
        File.AppendAllText(_folder["b/state.db"], "x");
        (await job.DoAsync(["state", "restore", _folder["b"], "--state", _folder["new"]])).ShouldEndWith(2).Error.ShouldContain("has changed since the backup was made");
        File.Exists(_folder["new/state.db"]).ShouldBeFalse();
    }

    // Services run as a user of their own; whoever is on call looks as root, and leaves nothing there that the service could not write.
    [Fact]
    public async Task Root_may_look_at_the_state_of_another_user_and_changes_nothing_of_it()
    {
        Assert.SkipUnless(Environment.UserName == "root", "only root can give a folder away");
        using var job = new Job(_cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.RunAsync()).ShouldEndWith(0);
        (await App.RunAsync("/usr/bin/chown", ["-R", "12345", job.State], job.Folder, [])).ShouldEndWith(0);
        (await job.DoAsync(["overview"])).ShouldEndWith(0).Out.ShouldContain("late  done");
        (await job.DoAsync(["runs", "list", "--all-jobs"])).ShouldEndWith(0).Out.ShouldContain("late");
        (await job.DoAsync(["state", "show"])).ShouldEndWith(0);
        (await job.DoAsync(["state", "verify"])).ShouldEndWith(0);
        (await App.RunAsync("/usr/bin/find", [job.State, "!", "-uid", "12345"], job.Folder, [])).ShouldEndWith(0).Out.ShouldBeEmpty();
        (await job.RunAsync()).ShouldEndWith(1).Error.ShouldContain("belongs to another user");
    }

    [Fact]
    public async Task Landings_are_kept_up_to_a_size()
    {
        using var job = new Job(_cloud.Address, Pieces.Consignments, Pieces.All, top: "retain: 2 MB");
        for (var run = 1; run <= 4; run++)
            (await job.RunAsync()).ShouldEndWith(0);
        var one = JsonDocument.Parse((await job.DoAsync(["runs", "show", job.Path, "4", "--format", "json"])).ShouldEndWith(0).Out).RootElement.GetProperty("figures").GetProperty("landed-bytes").GetInt64();
        one.ShouldBeInRange(800_000, 1_900_000);
        Directory.GetDirectories(job["state/jobs/late/runs"]).Length.ShouldBe((int)(2_000_000 / one));
        (await job.DoAsync(["runs", "prune", job.Path, "--retain", "1 MB"])).ShouldEndWith(0).Out.ShouldContain("good runs up to 0.001 GB");
        Directory.GetDirectories(job["state/jobs/late/runs"]).Select(path => Path.GetFileName(path)).ShouldBe(["000004"]);
        (await job.DoAsync(["state", "fold", job.Path])).ShouldEndWith(0).Out.ShouldContain("late: nothing to fold, nothing to remove");
    }
}
