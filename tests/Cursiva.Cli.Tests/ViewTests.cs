using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>What a person or a program is shown.</summary>
public sealed partial class ViewTests
{
    [Fact]
    public async Task Check_tells_what_a_job_would_do_and_where_inputs_come_from()
    {
        using var job = new Job("https://api.brackwater.example", Pieces.Depots + "\n" + Pieces.Consignments, Pieces.All, api: "limits: { at-most: [100 per second, 36000 per hour], use: 80% }", top: "inputs: { since: 2026-03-02 }");
        var ended = (await job.DoAsync(["check", job.Path, "--input", "since=2026-04-01"])).ShouldEndWith(0);
        foreach (var text in new[]
        {
            "since  2026-04-01  (--input)", "client_credentials at https://api.brackwater.example/oauth2/token as brackwater-demo", "secret from env:BRACKWATER_SECRET",
            "at most 80 per second and 28800 per hour (80% of what is allowed)", "GET https://api.brackwater.example/v2/depots?size=5, next link at /links/next", "reports/all.csv, reports/all.jsonl", "No mistakes.",
        })
        {
            ended.Out.ShouldContain(text);
        }

        using var account = JsonDocument.Parse((await job.DoAsync(["check", job.Path, "--format", "json"])).Out);
        account.RootElement.GetProperty("inputs")[0].GetProperty("from").GetString().ShouldBe("late.cursiva.yaml, line 2");
    }

    [Fact]
    public async Task Check_tells_every_mistake_a_line_each_and_as_JSON()
    {
        using var job = new Job("https://api.brackwater.example", Pieces.Depots.Replace("paging", "pagging").Replace("/items", "items"));
        var ended = (await job.DoAsync(["check", job.Path])).ShouldEndWith(3);
        ended.Out.Split('\n', StringSplitOptions.RemoveEmptyEntries).ShouldBe(
        [
            $"{job.Path}:18:11: rows in pull 'depots' must be a JSON Pointer, not 'items'; write a JSON Pointer: empty for the whole, or /name/name with ~1 for a slash and ~0 for a tilde",
            $"{job.Path}:19:5: unknown key 'pagging' in pull 'depots'; did you mean 'paging'?",
        ]);
        using var mistakes = JsonDocument.Parse((await job.DoAsync(["check", job.Path, "--format", "json"])).ShouldEndWith(3).Out);
        mistakes.RootElement[1].GetProperty("line").GetInt32().ShouldBe(19);
    }

    [Fact]
    public async Task Check_makes_no_request_and_reads_the_published_example()
    {
        var ended = await App.RunAsync(App.Cursiva, ["check", Path.Combine(App.Root, "examples", "demo", "consignments.cursiva.yaml")], App.Root, []);
        ended.ShouldEndWith(0).Out.ShouldContain("No request was made");
    }

    [Fact]
    public async Task In_a_pipe_results_go_to_stdout_and_dated_lines_to_stderr()
    {
        using var cloud = await StandIn.StartAsync("--rows", "100", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        var ended = (await job.RunAsync()).ShouldEndWith(0);
        ended.All.ShouldNotContain("\u001b");
        ended.Error.Split('\n', StringSplitOptions.RemoveEmptyEntries).ShouldAllBe(line => System.Text.RegularExpressions.Regex.IsMatch(line, @"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ \S"));
        ended.Error.ShouldContain("beginning run 1: the first run of this job");
        ended.Out.ShouldContain("rows on 2 pages");
        ended.Out.ShouldContain("reports/all.csv");
    }

    [Fact]
    public async Task The_JSON_log_is_an_object_a_line_and_the_JSON_summary_one_object()
    {
        using var cloud = await StandIn.StartAsync("--rows", "100", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        var ended = (await job.RunAsync("--log", "json", "--log", "debug", "--format", "json")).ShouldEndWith(0);
        var events = ended.Error.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(line => JsonDocument.Parse(line).RootElement).ToList();
        events.ShouldContain(line => line.GetProperty("message").GetString()!.Contains("/v2/consignments?size=50") && line.GetProperty("status").GetInt32() == 200);
        var listed = await File.ReadAllTextAsync(Path.Combine(App.Root, "docs", "log.md"));
        foreach (var line in events)
        {
            DateTimeOffset.Parse(line.GetProperty("time").GetString()!, System.Globalization.CultureInfo.InvariantCulture).Offset.ShouldBe(TimeSpan.Zero);
            line.GetProperty("level").GetString().ShouldBeOneOf("debug", "info", "warning");
            line.GetProperty("job").GetString().ShouldBe("late");
            listed.ShouldContain($"| `{line.GetProperty("event").GetString()}` |");
            foreach (var field in line.EnumerateObject())
                field.Name.ShouldMatch("^[a-z]+(-[a-z]+)*$");
        }

        var began = events.FindIndex(line => line.GetProperty("event").GetString() == "run-began");
        events[began].GetProperty("message").GetString().ShouldBe("beginning run 1: the first run of this job");
        events.Skip(began).ShouldAllBe(line => line.GetProperty("run").GetInt32() == 1);
        events.Select(line => line.GetProperty("event").GetString()).ShouldContain("file-written");
        var pull = events.First(line => line.GetProperty("event").GetString() == "pull-ended");
        pull.GetProperty("took-s").GetDouble().ShouldBeGreaterThan(0);
        pull.GetProperty("message").GetString()!.ShouldMatch(@"^pull consignments: complete, 100 rows on [0-9]+ pages? in [0-9.]+ s$");
        events.First(line => line.GetProperty("event").GetString() == "signed-in").GetProperty("lifetime-s").GetDouble().ShouldBeGreaterThan(3000);
        using var summary = JsonDocument.Parse(ended.Out);
        summary.RootElement.GetProperty("exit-code").GetInt32().ShouldBe(0);
        summary.RootElement.GetProperty("pulls")[0].GetProperty("rows").GetInt32().ShouldBe(100);
        summary.RootElement.GetProperty("files").GetArrayLength().ShouldBe(2);
    }

    [Fact]
    public async Task On_a_terminal_the_view_is_live_and_NO_COLOR_is_honoured()
    {
        using var cloud = await StandIn.StartAsync("--rows", "3000", "--latency", "10", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        Tools.Require("script");
        string[] terminal = ["-qec", $"{App.Cursiva} run {job.Path}", "/dev/null"];
        var coloured = (await App.RunAsync("script", terminal, job.Folder, [.. job.Environment, ("TERM", "xterm"), ("NO_COLOR", null)])).ShouldEndWith(0);
        coloured.Out.ShouldContain("rows/s");
        coloured.Out.ShouldContain("\u001b[");
        coloured.Out.ShouldContain("\u001b[32m");
        var plain = (await App.RunAsync("script", terminal, job.Folder, [.. job.Environment, ("TERM", "xterm"), ("NO_COLOR", "1")])).ShouldEndWith(0);
        plain.Out.ShouldContain("rows/s");
        plain.Out.ShouldNotContain("\u001b[32m");
    }

    [Fact]
    public async Task The_demo_runs_twice_and_leaves_what_it_names()
    {
        using var folder = new TemporaryFolder();
        for (var time = 1; time <= 2; time++)
        {
            var ended = (await App.RunAsync(App.Cursiva, ["demo", "--rows", "2000"], folder.Path, [])).ShouldEndWith(0);
            ended.Out.ShouldContain($"Run {(2 * time) - 1} done");
            ended.Out.ShouldContain($"Run {2 * time} done");
            ended.Out.ShouldContain("\"depot\",\"reference\",\"carrier\",\"goods\",\"weight_kg\",\"due_at\"");
            ended.Out.ShouldContain("The stand-in has been stopped.");
            foreach (var file in Directory.GetFiles(folder["cursiva-demo/reports"]))
                ended.Out.ShouldContain(Path.GetRelativePath(folder.Path, file));
        }

        var page = File.ReadAllText(folder["cursiva-demo/reports/activity.html"]);
        page.ShouldContain("the carrier has no licence for scans");
        page.ShouldContain("Became late since the last run");
    }

    [Theory]
    [InlineData(40)]
    [InlineData(80)]
    public async Task A_run_on_a_terminal_fits_it_and_shows_the_cursor_again(int columns)
    {
        Tools.Require("script");
        using var cloud = await StandIn.StartAsync("--rows", "300", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        async Task<Ended> ShownAsync(string command) => (await App.RunAsync("script", ["-qefc", $"stty cols {columns}; {App.Cursiva} {command} {job.Path}", "/dev/null"], job.Folder, [.. job.Environment, ("TERM", "xterm"), ("NO_COLOR", "1")])).ShouldEndWith(0);
        var ran = await ShownAsync("run");
        ran.Out.LastIndexOf("\u001b[?25h", StringComparison.Ordinal).ShouldBeGreaterThan(ran.Out.LastIndexOf("\u001b[?25l", StringComparison.Ordinal));
        var listed = await ShownAsync("runs list");
        listed.Out.ShouldContain("done");
        foreach (var line in Codes().Replace(ran.Out + listed.Out, "").Split('\n', '\r'))
            line.TrimEnd().Length.ShouldBeLessThanOrEqualTo(columns, line);
    }

    [System.Text.RegularExpressions.GeneratedRegex(@"\u001b\[[0-9;?]*[A-Za-z]")]
    private static partial System.Text.RegularExpressions.Regex Codes();
}
