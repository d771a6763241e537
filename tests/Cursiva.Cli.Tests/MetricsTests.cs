using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>The numbers of a run, read by a parser of their own ecosystem.</summary>
public sealed class MetricsTests
{
    private const string Parse = """
        import json, sys
        from prometheus_client.openmetrics.parser import text_string_to_metric_families
        print(json.dumps({sample.name + json.dumps(sample.labels, sort_keys=True): sample.value for family in text_string_to_metric_families(open(sys.argv[1]).read()) for sample in family.samples}))
        """;

    [Fact]
    public async Task The_numbers_of_a_run_are_written_whole_after_it()
    {
        Assert.SkipUnless((await App.RunAsync("/usr/bin/python3", ["-c", "import prometheus_client.openmetrics.parser"], Path.GetTempPath(), [])).Code == 0, "python3-prometheus-client is not installed");
        using var cloud = await StandIn.StartAsync("--rows", "200", "--fail-every", "3", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.RunAsync("--metrics", "run.prom")).ShouldEndWith(0);
        var numbers = await NumbersAsync(job);
        numbers["cursiva_run_exit_code{\"job\": \"late\"}"].ShouldBe(0);
        numbers["cursiva_run_rows{\"job\": \"late\", \"pull\": \"consignments\"}"].ShouldBe(200);
        numbers["cursiva_run_requests{\"job\": \"late\", \"status\": \"200\"}"].ShouldBe(5);
        numbers["cursiva_run_requests{\"job\": \"late\", \"status\": \"503\"}"].ShouldBe(numbers["cursiva_run_retries{\"job\": \"late\"}"]);
        numbers["cursiva_run_duration_seconds{\"job\": \"late\"}"].ShouldBeGreaterThan(0);
        numbers["cursiva_run_file_bytes{\"job\": \"late\"}"].ShouldBe(new FileInfo(job["reports/all.csv"]).Length + new FileInfo(job["reports/all.jsonl"]).Length);
        Directory.GetFiles(job.Folder, "*.part").ShouldBeEmpty();
        foreach (var name in numbers.Keys.Select(key => key[..key.IndexOf('{', StringComparison.Ordinal)]).Distinct())
            File.ReadAllText(Path.Combine(App.Root, "docs", "numbers.md")).ShouldContain($"| `{name}` |");

        // How all jobs stand is told the same way.
        (await job.DoAsync(["overview", "--metrics", "jobs.prom"])).ShouldEndWith(0);
        var jobs = await NumbersAsync(job, "jobs.prom");
        (jobs["cursiva_job_conditions{\"job\": \"late\"}"], jobs["cursiva_job_late{\"job\": \"late\"}"]).ShouldBe((0, 0));
        jobs["cursiva_job_last_good_timestamp_seconds{\"job\": \"late\"}"].ShouldBeInRange(DateTimeOffset.UtcNow.AddMinutes(-2).ToUnixTimeSeconds(), DateTimeOffset.UtcNow.ToUnixTimeSeconds() + 1);

        // A run that fails tells its code, too.
        (await job.DoAsync(["run", job.Path, "--new", "--metrics", "run.prom"], environment: ("BRACKWATER_SECRET", "wrong"))).ShouldEndWith(4);
        (await NumbersAsync(job))["cursiva_run_exit_code{\"job\": \"late\"}"].ShouldBe(4);
        (await job.RunAsync("--new", "--metrics", "nowhere/run.prom")).ShouldEndWith(8).Error.ShouldContain("the run's metrics could not be written");
    }

    private static async Task<Dictionary<string, double>> NumbersAsync(Job job, string file = "run.prom") =>
        JsonSerializer.Deserialize<Dictionary<string, double>>((await App.RunAsync("/usr/bin/python3", ["-c", Parse, file], job.Folder, [])).ShouldEndWith(0).Out)!;
}
