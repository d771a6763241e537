using System.Globalization;

namespace Cursiva.Cli.Tests;

/// <summary>Refresh tokens that are replaced at every use are not lost, whoever else uses them and whatever dies (promise 6).</summary>
public sealed class RefreshTests
{
    private const string Identity = "grant: refresh_token\nclient-id: brackwater-demo\nsecret: env:CLIENT_SECRET\ntoken-endpoint: '{cloud}/oauth2/token'\nrefresh-token: ";

    // The first cause that is told, not one of the others.
    private const string CutShort = "cause:    an earlier process was interrupted between sending the refresh token and storing its successor";

    [Fact]
    public async Task A_seed_is_taken_into_the_store_once_and_its_successors_live_there()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Identity + "env:SEED");
        job.Variables["SEED"] = await cloud.SeedAsync();
        var first = (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0);
        first.Error.ShouldContain("the refresh token of env:SEED was read into the store");
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0).Error.ShouldBeEmpty();
        job.Variables["SEED"] = null;
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0);

        // A new seed from outside means a new sign-in by somebody.
        job.Variables["SEED"] = await cloud.SeedAsync();
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0).Error.ShouldContain("was read into the store");
        var seen = await cloud.StatisticsAsync();
        seen.GetProperty("renewals").GetInt32().ShouldBe(4);
        seen.GetProperty("families_ended").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task Runs_that_meet_a_seed_at_the_same_time_take_it_once()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--answers-after", "100");
        using var job = new SignInJob(cloud.Address, Identity + "env:SEED");
        job.Variables["SEED"] = await cloud.SeedAsync();
        var jobs = Enumerable.Range(0, 5).Select(number => job[$"{number}.cursiva.yaml"]).ToArray();
        foreach (var path in jobs)
            File.Copy(job.Path, path);
        foreach (var ended in await Task.WhenAll(jobs.Select(path => job.DoAsync(["run", path]))))
            ended.ShouldEndWith(0);
        foreach (var ended in await Task.WhenAll(jobs.Select(path => job.DoAsync(["token", "get", path]))))
            ended.ShouldEndWith(0);
        (await cloud.StatisticsAsync()).GetProperty("families_ended").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task Two_services_with_seeds_of_two_accounts_do_not_take_each_others()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Identity + "env:SEED");
        string[] seeds = [await cloud.SeedAsync("north"), await cloud.SeedAsync("south")];
        for (var round = 0; round < 3; round++)
        {
            for (var account = 0; account < 2; account++)
            {
                job.Variables["SEED"] = seeds[account];
                var read = (await job.DoAsync(["token", "read", "--job", job.Path])).ShouldEndWith(0);
                read.Out.ShouldContain(account == 0 ? "north" : "south");
                (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0);
            }
        }

        (await cloud.StatisticsAsync()).GetProperty("families_ended").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task Every_account_has_its_own_token_under_one_client()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Identity + "kept:exchange/{account}");
        File.WriteAllText(job.Path, File.ReadAllText(job.Path).Replace("inputs:", "inputs:\n  account: north"));
        foreach (var account in new[] { "north", "south" })
        {
            (await job.DoAsync(["secret", "keep", "exchange/" + account], input: await cloud.SeedAsync())).ShouldEndWith(0);
            (await job.RunAsync("--new", "--input", "account=" + account)).ShouldEndWith(0);
            (await job.RunAsync("--new", "--input", "account=" + account)).ShouldEndWith(0);
        }

        (await cloud.StatisticsAsync()).GetProperty("renewals").GetInt32().ShouldBe(2);
        var missing = (await job.RunAsync("--new", "--input", "account=west")).ShouldEndWith(4);
        missing.Error.ShouldContain("there is no refresh token for identity 'app' (looked for 'exchange/west')");
        missing.Error.ShouldContain("then cursiva secret keep exchange/west");
    }

    [Fact]
    public async Task A_server_that_does_not_replace_the_token_is_fine_too()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--quirk", "no-rotation");
        using var job = new SignInJob(cloud.Address, Identity + "env:SEED");
        job.Variables["SEED"] = await cloud.SeedAsync();
        for (var i = 0; i < 3; i++)
            (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0);
    }

    [Fact]
    public async Task Another_program_with_the_same_token_is_told_apart_from_a_crash_of_ours()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var one = new SignInJob(cloud.Address, Identity + "env:SEED");
        using var other = new SignInJob(cloud.Address, Identity + "env:SEED");
        one.Variables["SEED"] = other.Variables["SEED"] = await cloud.SeedAsync();
        (await one.DoAsync(["token", "get", one.Path])).ShouldEndWith(0);
        (await other.DoAsync(["token", "get", other.Path])).ShouldEndWith(4).Error.ShouldContain("another program or machine uses the same one");
    }

    [Fact]
    public async Task A_process_that_dies_while_the_server_answers_is_the_one_window_and_the_message_says_so()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--answers-after", "1500");
        using var job = new SignInJob(cloud.Address, Identity + "env:SEED");
        job.Variables["SEED"] = await cloud.SeedAsync();
        var killed = await job.DoAsync(["token", "get", job.Path], during: async process =>
        {
            await cloud.UntilAsync(seen => seen.GetProperty("token_requests").GetInt32() > 0);
            process.Kill();
        });
        killed.Code.ShouldBe(137);
        await cloud.UntilAsync(seen => seen.GetProperty("renewals").GetInt32() > 0);
        var after = (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4);
        after.Error.ShouldContain("a process ended while it renewed the sign-in; trying the refresh token once more");
        after.Error.ShouldContain(CutShort);
        after.Error.ShouldContain("sign in once more at the refresh token's origin, then set the environment variable SEED");
        var asked = (await cloud.StatisticsAsync()).GetProperty("token_requests").GetInt32();
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4).Error.ShouldContain("is lost and is not sent again");
        (await cloud.StatisticsAsync()).GetProperty("token_requests").GetInt32().ShouldBe(asked);
        (await cloud.StatisticsAsync()).GetProperty("families_ended_carelessly").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task A_renewal_that_never_left_is_not_taken_for_one_that_was_cut_short()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Identity + "env:SEED");
        job.Variables["SEED"] = await cloud.SeedAsync();
        job.Variables["CLIENT_SECRET"] = null;
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4).Error.ShouldContain("CLIENT_SECRET is not set");
        job.Variables["CLIENT_SECRET"] = "wrong";
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(4).Error.ShouldContain("the client secret is");
        job.Variables["CLIENT_SECRET"] = Job.Secret;
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0).Error.ShouldBeEmpty();
    }

    [Fact]
    public async Task An_orderly_stop_waits_until_the_successor_is_kept()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--answers-after", "700");
        using var job = new SignInJob(cloud.Address, Identity + "env:SEED");
        job.Variables["SEED"] = await cloud.SeedAsync();
        await job.DoAsync(["token", "get", job.Path], during: async process =>
        {
            await cloud.UntilAsync(seen => seen.GetProperty("token_requests").GetInt32() > 0);
            System.Diagnostics.Process.Start("kill", ["-TERM", process.Id.ToString(CultureInfo.InvariantCulture)]).WaitForExit();
        });
        (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0).Error.ShouldBeEmpty();
    }

    [Fact]
    public async Task Eight_processes_share_a_token_for_two_hundred_renewals_and_lose_it_in_no_window_but_the_protocols()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--answers-after", "80");
        using var job = new SignInJob(cloud.Address, Identity + "kept:shared");
        using var newSeed = new SemaphoreSlim(1, 1);
        var dice = new Random(4711);
        var (kills, lost, seeds) = (0, 0, 1);
        (await job.DoAsync(["secret", "keep", "shared"], input: await cloud.SeedAsync())).ShouldEndWith(0);

        async Task WorkAsync()
        {
            while ((await cloud.StatisticsAsync()).GetProperty("renewals").GetInt32() < 200)
            {
                int? dies;
                lock (dice)
                    dies = dice.Next(4) == 0 ? dice.Next(50, 900) : null;
                var seedBefore = Volatile.Read(ref seeds);
                var ended = await job.DoAsync(["token", "get", job.Path], during: dies is not { } after ? null : async process =>
                {
                    await Task.Delay(after);
                    if (!process.HasExited)
                        process.Kill();
                });
                if (ended.Code == 137)
                    Interlocked.Increment(ref kills);
                else if (ended.Code != 0)
                    await SignInAgainAsync(ended, seedBefore);
            }
        }

        async Task SignInAgainAsync(Ended ended, int seedBefore)
        {
            ended.ShouldEndWith(4);
            await newSeed.WaitAsync();
            try
            {
                if (seeds != seedBefore)
                    return;
                ended.Error.ShouldContain(CutShort);
                lost++;
                (await job.DoAsync(["secret", "keep", "shared"], input: await cloud.SeedAsync())).ShouldEndWith(0);
                seeds++;
            }
            finally
            {
                newSeed.Release();
            }
        }

        await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => WorkAsync()));
        var seen = await cloud.StatisticsAsync();
        TestContext.Current.SendDiagnosticMessage($"{seen.GetProperty("renewals")} renewals, {kills} kills, {lost} families lost in the protocol's window");
        kills.ShouldBeGreaterThan(10);
        seen.GetProperty("families_ended").GetInt32().ShouldBe(lost);
        seen.GetProperty("families_ended_carelessly").GetInt32().ShouldBe(0);
        lost.ShouldBeLessThan(kills);
    }

    [Theory]
    [InlineData("pwrite64")]
    [InlineData("fsync,fdatasync")]
    public async Task A_renewal_that_dies_at_any_write_or_flush_loses_nothing_that_was_in_our_hands(string calls)
    {
        Tools.Require("strace");
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret);
        using var job = new SignInJob(cloud.Address, Identity + "kept:shared");
        var (killed, lost) = (0, 0);
        for (var n = 1; ; n++)
        {
            (await job.DoAsync(["secret", "keep", "shared"], input: await cloud.SeedAsync())).ShouldEndWith(0);
            var paths = new[] { "state.db", "state.db-wal" }.SelectMany(file => new[] { "-P", Path.Combine(job.State, file) });
            var ended = await App.RunAsync("strace", ["-f", "-qq", "-o", "/dev/null", .. paths, "-e", $"trace={calls}", "-e", $"inject={calls}:signal=KILL:when={n}", App.Cursiva, "token", "get", job.Path], job.Folder, [.. job.Environment, ("DOTNET_ThreadPool_ForceMaxWorkerThreads", "1")]);
            if (ended.Code == 0)
                break;
            ended.Code.ShouldBe(137, ended.All);
            killed++;
            var next = await job.DoAsync(["token", "get", job.Path]);
            if (next.Code != 0)
            {
                next.ShouldEndWith(4).Error.ShouldContain(CutShort);
                lost++;
            }
        }

        killed.ShouldBeGreaterThan(2);
        lost.ShouldBeLessThan(killed);
        (await cloud.StatisticsAsync()).GetProperty("families_ended_carelessly").GetInt32().ShouldBe(0);
    }
}
