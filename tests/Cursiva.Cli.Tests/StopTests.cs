using System.Diagnostics;

namespace Cursiva.Cli.Tests;

/// <summary>Whatever stops a run, the next one goes on and ends with the same bytes.</summary>
public sealed class StopTests
{
    private static readonly string[] s_cloud = ["--rows", "6000", "--latency", "8", "--client-secret", Job.Secret];

    [Fact]
    public async Task Killed_at_random_moments_a_run_ends_byte_for_byte_like_an_undisturbed_one()
    {
        const int Kills = 20;
        using var cloud = await StandIn.StartAsync(s_cloud);
        var undisturbed = await UndisturbedAsync(cloud);
        var random = new Random(20261124);
        var (kills, wentOn, finished) = (0, 0, 0);
        while (kills < Kills || finished == 0)
        {
            using var job = NewJob(cloud);
            while (true)
            {

                // By the clock, which meets starts and reports too, and by the pages, however busy the machine is.
                var kill = random.Next(2) == 0 ? KillAfter(TimeSpan.FromMilliseconds(random.Next(200, 1400))) : KillAfterPages(cloud, random.Next(1, 110));
                var ended = await job.DoAsync(["run", job.Path], kill);
                if (ended.Error.Contains("resuming run 1"))
                    wentOn++;
                if (ended.Code == 137)
                {
                    kills++;
                    continue;
                }

                ended.ShouldEndWith(0);
                break;
            }

            finished++;
            job.ShouldHave(undisturbed);
        }

        wentOn.ShouldBeGreaterThan(Kills / 4, "many kills must have met a run that had begun");
    }

    [Theory]
    [InlineData("INT", 130)]
    [InlineData("TERM", 143)]
    public async Task A_signal_stops_cleanly_tells_how_to_go_on_and_nothing_is_fetched_twice(string signal, int code)
    {
        using var cloud = await StandIn.StartAsync(s_cloud);
        var undisturbed = await UndisturbedAsync(cloud);
        var before = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32();
        using var job = NewJob(cloud);

        // Whoever runs the tests in the background may have them ignore SIGINT, and what they start with them.
        var stopped = (await App.RunAsync("env", ["--default-signal", App.Cursiva, "run", job.Path], job.Folder, job.Environment, OnceItPages(cloud, process => SignalAsync(signal, process)))).ShouldEndWith(code);
        stopped.Error.ShouldContain("stopped on request");
        stopped.Error.ShouldContain($"cursiva run {job.Path}");

        var again = (await job.RunAsync()).ShouldEndWith(0);
        again.Error.ShouldContain("resuming run 1");
        again.Out.ShouldContain("landed before the stop");
        job.ShouldHave(undisturbed);
        var requests = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32() - before;
        requests.ShouldBeInRange(123, 125); // 123 pages, and what was on its way
    }

    [Fact]
    public async Task A_second_run_of_the_same_job_ends_with_10_and_says_who_holds_it()
    {
        using var cloud = await StandIn.StartAsync("--rows", "6000", "--latency", "30", "--client-secret", Job.Secret);
        using var job = NewJob(cloud);
        await job.DoAsync(["run", job.Path], async process =>
        {
            await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 10);
            var second = (await job.RunAsync()).ShouldEndWith(10);
            second.Error.ShouldContain($"process {process.Id} on ");
            process.Kill();
        });

        // The lock of a killed process does not block.
        using var fast = await StandIn.StartAsync("--rows", "10", "--client-secret", Job.Secret);
        job.Yaml = job.Yaml.Replace(cloud.Address, fast.Address);
        job.Save();
        var next = (await job.RunAsync()).ShouldEndWith(0);
        next.Error.ShouldContain("beginning run 2: every pull of the job has changed since run 1");
    }

    [Fact]
    public async Task The_user_rules_whether_a_stopped_run_is_gone_on_with()
    {
        using var cloud = await StandIn.StartAsync(s_cloud);
        using var job = NewJob(cloud, top: "resume-within: 2s");
        await job.DoAsync(["run", job.Path], OnceItPages(cloud, KillAsync));
        await Task.Delay(2000);
        (await job.DoAsync(["run", job.Path], OnceItPages(cloud, KillAsync))).Error.ShouldContain("beginning run 2: run 1 is older than resume-within (2.0 s)");
        (await job.DoAsync(["run", job.Path, "--new"], OnceItPages(cloud, KillAsync))).Error.ShouldContain("beginning run 3: --new was given; run 2 is set aside");
        await Task.Delay(2000);
        (await job.RunAsync("--resume")).ShouldEndWith(0).Error.ShouldContain("resuming run 3");
        (await job.RunAsync("--resume")).ShouldEndWith(2).Error.ShouldContain("there is nothing to resume: run 3 is finished");
        (await job.RunAsync("--resume", "--new")).ShouldEndWith(2);
    }

    private static Job NewJob(StandIn cloud, string top = "") => new(cloud.Address, Pieces.Consignments + "\n" + Pieces.Depots, Pieces.All + "\n" + Pieces.Late, top: top);

    private static async Task<Dictionary<string, byte[]>> UndisturbedAsync(StandIn cloud)
    {
        using var job = NewJob(cloud);
        (await job.RunAsync()).ShouldEndWith(0);
        return job.Results();
    }

    private static Func<Process, Task> KillAfter(TimeSpan time) => async process =>
    {
        await Task.Delay(time);
        await KillAsync(process);
    };

    private static Func<Process, Task> KillAfterPages(StandIn cloud, int pages) => async process =>
    {
        var before = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32();
        while (!process.HasExited && (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32() < before + pages)
            await Task.Delay(3);
        await KillAsync(process);
    };

    // However busy the machine is: the run is in the middle of its pages.
    private static Func<Process, Task> OnceItPages(StandIn cloud, Func<Process, Task> then) => async process =>
    {
        var before = (await cloud.StatisticsAsync()).GetProperty("requests").GetInt32();
        await cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > before + 20);
        await then(process);
    };

    private static Task KillAsync(Process process)
    {
        if (!process.HasExited)
            process.Kill();
        return Task.CompletedTask;
    }

    private static async Task SignalAsync(string signal, Process process)
    {
        using var kill = Process.Start("kill", [$"-{signal}", process.Id.ToString()]);
        await kill.WaitForExitAsync();
    }
}
