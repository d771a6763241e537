namespace Cursiva.Cli.Tests;

/// <summary>A run that one process does, as others see it and stop it.</summary>
public sealed class WatchTests
{
    [Fact]
    public async Task A_run_is_watched_stopped_and_resumed_with_nothing_lost()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "12000", "--latency", "40");
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.DoAsync(["runs", "stop", job.Path])).ShouldEndWith(2).Error.ShouldContain("no run of late is under way");
        (await job.DoAsync(["runs", "watch", job.Path])).ShouldEndWith(0).Out.ShouldContain("No run of late is under way.");
        Ended? watched = null, stopped = null;
        var run = await job.DoAsync(["run", job.Path], async process =>
        {
            await cloud.UntilAsync(statistics => statistics.GetProperty("requests").GetInt32() > 20);
            var watch = job.DoAsync(["runs", "watch", job.Path]);
            var pulse = job["state/jobs/late/pulse.json"];
            // What others see is written once a second: however fast the requests were, it has to say that the run pulls.
            for (var tries = 0; tries < 200 && !File.ReadAllText(pulse).Contains("\"doing\":\"pulls\"", StringComparison.Ordinal); tries++)
                await Task.Delay(100);
            await Task.Delay(2500);
            (await job.DoAsync(["overview"])).ShouldEndWith(0).Out.ShouldContain("running");
            stopped = await job.DoAsync(["runs", "stop", job.Path]);
            using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(5));
            await process.WaitForExitAsync(patience.Token);
            watched = await watch;
        });
        run.ShouldEndWith(143).Error.ShouldContain("resume:");
        stopped!.ShouldEndWith(0).Out.ShouldContain("Run 1 of late has stopped; the next start resumes it.");
        watched!.ShouldEndWith(0).Out.ShouldContain("run 1 pulls: consignments ");
        watched.Out.ShouldContain("Run 1 has ended");
        Directory.GetFiles(job["state/jobs/late"]).Select(path => Path.GetFileName(path)).ShouldNotContain("stop");
        (await job.RunAsync()).ShouldEndWith(0).Out.ShouldContain("landed before the stop");
        File.ReadAllLines(job["reports/all.csv"]).Length.ShouldBe(12_001);
        (await job.DoAsync(["runs", "list", "--all-jobs"])).ShouldEndWith(0).Out.ShouldContain("done, resumed");
        var shown = (await job.DoAsync(["runs", "show", job.Path, "1"])).ShouldEndWith(0).Out;
        shown.ShouldContain("stages");
        shown.ShouldContain(" with 200");
    }

    // A stop that was meant for one run stops no later one.
    [Fact]
    public async Task A_request_to_stop_is_for_one_run()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "100");
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.RunAsync()).ShouldEndWith(0);
        File.WriteAllText(job["state/jobs/late/stop"], "1");
        (await job.RunAsync()).ShouldEndWith(0);
    }
}
