using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Many jobs at one look, and what is told of them by itself.</summary>
public sealed class OverviewTests : IDisposable
{
    private const string Depots = "depots: { get: /depots, rows: /items, paging: { next-link: /links/next } }";

    private readonly TemporaryFolder _folder = new();
    private readonly StandIn _cloud = StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "300").GetAwaiter().GetResult();

    public void Dispose()
    {
        _cloud.Dispose();
        _folder.Dispose();
    }

    [Fact]
    public async Task Every_job_is_on_one_line_that_fits_and_a_monitor_is_told_by_a_code()
    {
        Write("depots", Depots, "schedule: { at: \"06:30\" }\ntitle: <b>Depots & \"docks\"</b>");
        (await DoAsync("check", "depots.cursiva.yaml")).ShouldEndWith(0).Out.ShouldContain("daily at 06:30 (UTC), late after 2 h 00 min");
        Write("late", Depots, "schedule: { cron: \"* * * * *\", late-after: 0s }");
        File.SetLastWriteTimeUtc(_folder["late.cursiva.yaml"], DateTime.UtcNow.AddHours(-1));
        (await DoAsync("overview")).ShouldEndWith(0).Out.ShouldContain("No job has run here");
        (await DoAsync("run", "depots.cursiva.yaml")).ShouldEndWith(0);
        (await DoAsync("overview", "--failing")).ShouldEndWith(0).Out.ShouldContain("Nothing needs attention");

        var shown = (await DoAsync("overview", ".")).ShouldEndWith(0).Out;
        shown.ShouldContain("depots  done");
        shown.ShouldContain("late    late");
        shown.ShouldContain("no good run since it was due at");
        shown.ShouldContain("2 jobs, 1 needs attention.");
        shown.Split('\n').ShouldAllBe(line => line.TrimEnd().Length <= 100);
        shown.Split('\n').Single(line => line.StartsWith("used by", StringComparison.Ordinal)).ShouldContain("requests in 1 h  in 24 h");
        shown.ShouldContain(" of 1000 per hour (exchange)");
        shown.Split('\n').Count(line => line.StartsWith("depots", StringComparison.Ordinal)).ShouldBe(2);
        var wideName = new string('n', 95);
        Write(wideName, Depots, "expected: weekdays by 07:00\nnonsense: 1");
        var wide = (await DoAsync("overview", ".")).ShouldEndWith(0).Out;
        wide.ShouldContain("nnn…");
        wide.Split('\n').ShouldAllBe(line => line.TrimEnd().Length <= 100);
        File.Delete(_folder[wideName + ".cursiva.yaml"]);
        (await DoAsync("overview", ".", "--failing")).ShouldEndWith(8).Out.ShouldNotContain("depots");
        (await DoAsync("overview", "nowhere")).ShouldEndWith(2).Error.ShouldContain("'nowhere' is neither a folder nor a job file");

        var json = JsonDocument.Parse((await DoAsync("overview", ".", "--format", "json")).ShouldEndWith(0).Out).RootElement.GetProperty("jobs");
        json.EnumerateArray().Select(job => $"{job.GetProperty("job")} {job.GetProperty("state")} {job.GetProperty("conditions").GetArrayLength()}").ShouldBe(["depots done 0", "late late 1"]);
        (await DoAsync("overview", ".", "--html", "overview.html", "--metrics", "overview.prom")).ShouldEndWith(0);
        var page = File.ReadAllText(_folder["overview.html"]);
        page.ShouldContain("&lt;b&gt;Depots &amp; &quot;docks&quot;&lt;/b&gt;");
        page.ShouldContain("default-src 'none'");
        page.ShouldNotContain("<script");
        var numbers = File.ReadAllText(_folder["overview.prom"]);
        numbers.ShouldContain("cursiva_job_late{job=\"late\"} 1\n");
        numbers.ShouldEndWith("# EOF\n");
        var documented = File.ReadAllText(Path.Combine(App.Root, "docs", "numbers.md"));
        foreach (var name in numbers.Split('\n').Where(line => line.StartsWith("# TYPE ", StringComparison.Ordinal)).Select(line => line.Split(' ')[2]))
            documented.ShouldContain($"| `{name}` |");
    }

    [Fact]
    public async Task What_is_late_is_told_once_and_once_more_when_it_is_over()
    {
        Write("depots", Depots, "schedule: { cron: \"* * * * *\", late-after: 0s }");
        File.SetLastWriteTimeUtc(_folder["depots.cursiva.yaml"], DateTime.UtcNow.AddHours(-1));
        File.WriteAllText(_folder["watch.cursiva.yaml"], "cursiva: 1\ntitle: Night watch\ndeliveries: { told: { when: late, message: { address: env:CHANNEL, body: { text: \"{run.message}\" } } } }");
        (await DoAsync("check", "watch.cursiva.yaml")).ShouldEndWith(0).Out.ShouldContain("once, and once more when it is over");

        // A channel that fails loses nothing.
        await _cloud.BehaveAsync("refuse");
        (await DoAsync("overview", ".", "--late", "watch.cursiva.yaml")).ShouldEndWith(9).Error.ShouldContain("told-1 is");
        await _cloud.BehaveAsync("");
        (await DoAsync("ledger", "watch.cursiva.yaml", "--again", "told-1")).ShouldEndWith(0);
        (await DoAsync("overview", ".", "--late", "watch.cursiva.yaml")).ShouldEndWith(0).Out.ShouldContain("Nothing new.");
        (await MessagesAsync()).Count(message => message.Contains("depots: no good run since")).ShouldBe(1);

        await LateUntilOverAsync();
        (await MessagesAsync()).Count(message => message.StartsWith("over: depots: no good run since", StringComparison.Ordinal)).ShouldBe(1);
        (await DoAsync("overview", "--late", "depots.cursiva.yaml")).ShouldEndWith(2).Error.ShouldContain("has no delivery with when: late");
    }

    [Fact]
    public async Task Runs_of_all_jobs_are_listed_by_time()
    {
        Write("depots", Depots);
        Write("other", Depots);
        (await DoAsync("run", "depots.cursiva.yaml")).ShouldEndWith(0);
        (await DoAsync("run", "other.cursiva.yaml")).ShouldEndWith(0);
        var listed = JsonDocument.Parse((await DoAsync("runs", "list", "--all-jobs", "--format", "json")).ShouldEndWith(0).Out).RootElement;
        listed.EnumerateArray().Select(run => $"{run.GetProperty("job")} {run.GetProperty("run")} {run.GetProperty("rows")}").ShouldBe(["depots 1 12", "other 1 12"]);
        (await DoAsync("runs", "list", "--all-jobs", "--since", "2001-01-01")).ShouldEndWith(0).Out.ShouldContain("other");
        (await DoAsync("runs", "list", "depots.cursiva.yaml", "--since", "1ms")).ShouldEndWith(0).Out.ShouldContain("no run");
        (await DoAsync("runs", "list")).ShouldEndWith(2).Error.ShouldContain("name a job, or add --all-jobs");
        (await DoAsync("runs", "list", "--since", "yesterday", "--all-jobs")).ShouldEndWith(2).Error.ShouldContain("'yesterday' is neither a day nor an age");
    }

    // A secret of the store that ends soon is told where people look: in the summary, on the page, in the numbers, and before that by check.
    [Fact]
    public async Task A_run_tells_what_will_end()
    {
        (await App.RunAsync(App.Cursiva, ["secret", "keep", "app", "--expires", DateTime.UtcNow.AddDays(5).ToString("yyyy-MM-dd")], _folder.Path, Environment, input: Job.Secret)).ShouldEndWith(0);
        Write("depots", Depots, secret: "kept:app", reports: "reports: { depots: { sql: select id from depots, write: [depots.html, depots.csv] } }");
        var run = (await DoAsync("run", "depots.cursiva.yaml", "--metrics", "run.prom")).ShouldEndWith(0);
        run.Out.ShouldContain("the secret 'app' expires in ");
        File.ReadAllText(_folder["reports/depots.html"]).ShouldContain("the secret &#39;app&#39; expires in ");
        File.ReadAllText(_folder["run.prom"]).ShouldMatch("cursiva_ends_in_days\\{job=\"depots\",kind=\"secret\",of=\"'app'\"\\} [45]");
        (await DoAsync("check", "depots.cursiva.yaml", "--live")).ShouldEndWith(0).Out.ShouldContain("'app' expires in ");
        (await DoAsync("overview", "--failing")).ShouldEndWith(8).Out.ShouldContain("the secret 'app' expires in ");
    }

    private async Task LateUntilOverAsync()
    {
        for (var attempt = 0; ; attempt++)
        {
            (await DoAsync("run", "depots.cursiva.yaml")).ShouldEndWith(0);
            if ((await DoAsync("overview", ".", "--late", "watch.cursiva.yaml")).ShouldEndWith(0).Out.Contains("over: depots", StringComparison.Ordinal))
                return;
            attempt.ShouldBeLessThan(60);
        }
    }

    private async Task<IReadOnlyList<string>> MessagesAsync() =>
        [.. (await _cloud.OfficeAsync()).GetProperty("messages").EnumerateArray().Select(message => message.GetProperty("text").GetString()!)];

    private void Write(string name, string pulls, string top = "", string secret = "env:BRACKWATER_SECRET", string reports = "") => File.WriteAllText(_folder[$"{name}.cursiva.yaml"], $"""
        cursiva: 1
        {top}
        identities:
          app: {'{'} grant: client_credentials, token-endpoint: "{_cloud.Address}/oauth2/token", client-id: brackwater-demo, secret: "{secret}" {'}'}
        apis: {'{'} exchange: {'{'} base: "{_cloud.Address}/v2", identity: app, limits: {'{'} at-most: 1000 per hour {'}'} {'}'} {'}'}
        pulls:
          {pulls}
        {reports}
        """);

    private IEnumerable<(string, string?)> Environment => [("CURSIVA_STATE", _folder["state"]), ("BRACKWATER_SECRET", Job.Secret), ("CHANNEL", _cloud.Address + "/hooks/desk-channel-0815")];

    private Task<Ended> DoAsync(params string[] arguments) => App.RunAsync(App.Cursiva, arguments, _folder.Path, Environment);
}
