using System.Diagnostics;

namespace Cursiva.Cli.Tests;

/// <summary>What a program meets on a server: streams that are closed, variables that are not set, terminals that go away.</summary>
public sealed class OddDayTests : IAsyncLifetime
{
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "300", "--page-size", "100", "--latency", "20", "--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Theory]
    [InlineData("<&- >&- 2>&-")]
    [InlineData("2>&-")]
    [InlineData(">&-")]
    [InlineData("<&-")]
    [InlineData("2>/dev/full")]
    public async Task Closed_and_full_standard_streams_stop_no_run(string streams)
    {
        using var job = NewJob();
        var ended = await ShellAsync(job, $"exec '{App.Cursiva}' run '{job.Path}' {streams}");
        ended.ShouldBe(0);
        File.ReadAllLines(job["reports/all.csv"]).Length.ShouldBe(301);
        (await job.DoAsync(["runs", "list", job.Path])).ShouldEndWith(0).Out.ShouldContain("done");
    }

    [Theory]
    [InlineData("TERM", 143)]
    [InlineData("INT", 130)]
    [InlineData("HUP", 143)]
    public async Task A_signal_stops_in_an_orderly_way_and_the_record_says_by_which(string signal, int code)
    {
        // What a shell starts in the background ignores SIGINT, what nohup starts SIGHUP, and so does whatever they start.
        var ignored = Convert.ToUInt64(File.ReadLines("/proc/self/status").First(line => line.StartsWith("SigIgn:", StringComparison.Ordinal))[7..].Trim(), 16);
        var bit = signal switch { "HUP" => 1UL, "INT" => 2UL, _ => 0UL };
        Assert.SkipWhen((ignored & bit) != 0, $"SIG{signal} is ignored where the tests were started");
        using var slow = await StandIn.StartAsync("--rows", "3000", "--page-size", "10", "--latency", "50", "--client-secret", Job.Secret);
        using var job = new Job(slow.Address, "p: { get: /consignments, rows: /items, paging: { next-link: /links/next } }");
        var ended = await job.DoAsync(["run", job.Path], async process =>
        {
            await slow.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 5);
            using var kill = Process.Start("kill", [$"-{signal}", process.Id.ToString()]);
            await kill.WaitForExitAsync();
        });
        ended.ShouldEndWith(code);
        (await job.DoAsync(["runs", "list", job.Path])).Out.ShouldContain($"stopped with code {code}");
    }

    [Theory]
    [InlineData("all.md.gz")]
    [InlineData("all.md.zst")]
    [InlineData("all.fragment.html.gz")]
    [InlineData("all.fragment.html.zst")]
    [InlineData("all.html.gz")]
    [InlineData("all.csv.zst")]
    public async Task Every_format_may_be_compressed(string file)
    {
        Tools.Require(file.EndsWith("gz") ? "gzip" : "zstd");
        using var job = NewJob(file);
        (await job.RunAsync()).ShouldEndWith(0);
        var path = job[$"reports/{file}"];
        using var unpack = Process.Start(new ProcessStartInfo(file.EndsWith("gz") ? "gzip" : "zstd", file.EndsWith("gz") ? ["-dc", path] : ["-dc", path]) { RedirectStandardOutput = true })!;
        (await unpack.StandardOutput.ReadToEndAsync()).ShouldContain("BFX-00000150");
        await unpack.WaitForExitAsync();
        unpack.ExitCode.ShouldBe(0);
    }

    [Fact]
    public async Task An_empty_name_of_the_job_is_told_and_a_deadline_of_weeks_is_one()
    {
        using var job = NewJob();
        (await job.DoAsync(["run", ""])).ShouldEndWith(2).Error.ShouldContain("the name of the job file is empty; perhaps a shell variable is not set");
        (await job.RunAsync("--deadline", "8w")).ShouldEndWith(0);
        job.Yaml = "deadline: 9w\n" + job.Yaml.Replace("identity: app", "identity: app\n    timeout: 60d\n    idle-timeout: 60d");
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_deadline_of_the_job_ends_a_start_resumably()
    {
        using var slow = await StandIn.StartAsync("--rows", "3000", "--page-size", "10", "--latency", "50", "--client-secret", Job.Secret);
        using var job = new Job(slow.Address, "p: { get: /consignments, rows: /items, paging: { next-link: /links/next } }", top: "deadline: 1s");
        (await job.RunAsync()).ShouldEndWith(7);
        (await job.RunAsync("--deadline", "1h")).ShouldEndWith(0).Error.ShouldContain("resuming run 1");
    }

    [Theory]
    [InlineData("id,name\nT1,a\nT2\n", "line 3 has 1 fields, but the header has 2")]
    [InlineData("id,id\n1,2\n", "has the field 'id' 2 times")]
    public async Task A_file_that_is_no_CSV_is_told_with_its_line(string file, string told)
    {
        using var job = new Job(_cloud.Address, "p: { per: { name: t, file: t.csv }, get: '/{t.id}', rows: /items }");
        await File.WriteAllTextAsync(job["t.csv"], file);
        var ended = (await job.RunAsync()).ShouldEndWith(3);
        ended.Error.ShouldContain(told);
        ended.Error.ShouldContain("t.csv");
        (await job.DoAsync(["runs", "list", job.Path])).Out.ShouldContain("stopped with code 3");
    }

    private Job NewJob(string file = "all.csv") => new(_cloud.Address, "p: { get: /consignments, rows: /items, paging: { next-link: /links/next } }", $"all: {{ sql: select * from p order by reference, write: {file} }}");

    private static async Task<int> ShellAsync(Job job, string command)
    {
        var start = new ProcessStartInfo("bash", ["-c", command]) { WorkingDirectory = job.Folder };
        foreach (var (name, value) in job.Environment)
            start.Environment[name] = value;
        using var process = Process.Start(start)!;
        await process.WaitForExitAsync();
        return process.ExitCode;
    }
}
