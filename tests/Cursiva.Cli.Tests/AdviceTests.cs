using System.Text.RegularExpressions;

namespace Cursiva.Cli.Tests;

/// <summary>What a message advises works: its command, as printed, does what it promises.</summary>
public sealed partial class AdviceTests : IAsyncLifetime
{
    private const string Pull = "a: { get: '/consignments?size=50', rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }";

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "300");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Theory]
    [InlineData("r: { sql: select cast(reference as integer) as n from a, write: r.csv }", "cast(reference as integer)", "count(*)")]
    [InlineData("r: { sql: select * from a, require: { at-most: 9 }, write: r.csv }", "at-most: 9", "at-most: 900")]
    [InlineData("r: { sql: select * from late, write: r.csv }", "where nonsense", "where true", "views: { late: select * from a where nonsense }")]
    [InlineData("r: { sql: select * from a where false, write: r.csv }", "columns: { weight_kg: integer }", "columns: { weight_kg: decimal }", "", "columns: { weight_kg: integer }")]
    [InlineData("r: { sql: select * from a, write: r.csv }", ", require: complete", "", "", "require: complete", ", paging: { cursor: /page/cursor, parameter: cursor }")]
    public async Task Reports_are_written_from_landed_rows_once_the_job_is_right(string report, string wrong, string right, string top = "", string pull = "", string without = "none")
    {
        using var job = new Job(_cloud.Address, pull.Length == 0 ? Pull : Pull.Replace("rows: /items", $"rows: /items, {pull}").Replace(without, ""), report, top: top);
        var failed = (await job.RunAsync()).ShouldEndWith(8);
        job.Yaml = job.Yaml.Replace(wrong, right);
        job.Save();
        var asked = await RequestsAsync();
        (await DoAsync(job, CommandIn(failed.Error, "cursiva report"))).ShouldEndWith(0);
        File.Exists(job["reports/r.csv"]).ShouldBeTrue();
        (await RequestsAsync()).ShouldBe(asked);
    }

    [Fact]
    public async Task A_stopped_run_is_resumed_from_a_folder_and_a_state_with_spaces_and_quotes()
    {
        using var job = new Job(_cloud.Address, Pull, "r: { sql: select * from a, write: r.csv }");
        Directory.CreateDirectory(job["it's late"]);
        File.Copy(job.Path, job["it's late/job.cursiva.yaml"]);
        var stopped = (await job.DoAsync(["run", "it's late/job.cursiva.yaml", "--state", "a state", "--max-requests", "3"])).ShouldEndWith(7);
        var command = CommandIn(stopped.Error, "cursiva run");
        command.ShouldBe("cursiva run 'it'\\''s late/job.cursiva.yaml' --state 'a state'");
        (await DoAsync(job, command)).ShouldEndWith(0).Out.ShouldContain("of them landed before the stop");
    }

    [Fact]
    public async Task A_missing_secret_is_kept_where_the_job_looks_for_it()
    {
        using var job = new Job(_cloud.Address, Pull);
        job.Yaml = job.Yaml.Replace("env:BRACKWATER_SECRET", "kept:exchange");
        job.Save();
        var missing = (await job.RunAsync("--state", "other")).ShouldEndWith(4);
        (await DoAsync(job, CommandIn(missing.Error, "cursiva secret keep"), Job.Secret)).ShouldEndWith(0);
        (await job.RunAsync("--state", "other")).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_strand_that_may_be_missing_is_skipped_by_the_line_that_the_message_gives()
    {
        using var job = new Job(_cloud.Address, "tenants: { get: /tenants, rows: /items }\nscans:\n  per: tenants\n  get: /tenants/{tenants.id}/scans\n  rows: /items");
        var refused = (await job.RunAsync()).ShouldEndWith(5);
        job.Yaml = job.Yaml.Replace("  per: tenants", "  per: tenants\n    " + SkipLine().Match(refused.Error).Groups[1].Value);
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0).Out.ShouldContain("(1 skipped)");
    }

    [Theory]
    [InlineData("get: '/consignments?size=50'", "get: '/consignments?size=50&since=2199-01-01'", ", rows: /items", ", rows: /items, allow-empty: true")]
    [InlineData("rows: /items,", "rows: /items, omit: [/goods], require: same-columns,", "require: same-columns,", "")]
    public async Task A_change_of_the_rows_is_accepted_by_the_line_that_the_message_gives(string before, string now, string line, string accepted)
    {
        using var job = new Job(_cloud.Address, Pull, "r: { sql: select count(*) as n from a, write: r.csv }");
        (await job.RunAsync()).ShouldEndWith(0);
        job.Yaml = job.Yaml.Replace(before, now);
        job.Save();
        var changed = (await job.RunAsync("--new")).ShouldEndWith(8);
        changed.Error.ShouldContain(accepted.Length > 0 ? "add allow-empty: true to pull 'a'" : "take same-columns out of require:");
        job.Yaml = job.Yaml.Replace(line, accepted);
        job.Save();
        var asked = await RequestsAsync();
        (await DoAsync(job, CommandIn(changed.Error, "cursiva report"))).ShouldEndWith(0);
        (await RequestsAsync()).ShouldBe(asked);
    }

    [Fact]
    public async Task A_secret_whose_key_was_lost_is_removed_and_kept_again()
    {
        using var job = new Job(_cloud.Address, Pull);
        job.Yaml = job.Yaml.Replace("env:BRACKWATER_SECRET", "kept:exchange");
        job.Save();
        (await DoAsync(job, "cursiva secret keep exchange", Job.Secret)).ShouldEndWith(0);
        File.Delete(job["state/store.key"]);
        var lost = (await job.RunAsync()).ShouldEndWith(4);
        (await DoAsync(job, CommandIn(lost.Error, "cursiva secret remove"))).ShouldEndWith(0);
        var missing = (await job.RunAsync()).ShouldEndWith(4);
        (await DoAsync(job, CommandIn(missing.Error, "cursiva secret keep"), Job.Secret)).ShouldEndWith(0);
        (await job.RunAsync()).ShouldEndWith(0);
        (await DoAsync(job, "cursiva secret remove other")).ShouldEndWith(2).Error.ShouldContain("cursiva secret list shows the names");
        (await DoAsync(job, "cursiva secret list")).ShouldEndWith(0).Out.ShouldContain("exchange");
    }

    [Fact]
    public async Task A_permission_that_is_missing_is_seen_in_the_token_that_the_message_shows()
    {
        using var job = new Job(_cloud.Address, Pull, identity: "permissions: [vehicles.export]");
        var check = await job.DoAsync(["check", job.Path, "--live"]);
        check.Out.ShouldContain("lacks vehicles.export");
        (await DoAsync(job, $"cursiva token read --job {job.Path}")).All.ShouldContain("lacks vehicles.export");
    }

    [Fact]
    public async Task An_identity_of_each_strand_is_tried_with_the_value_that_the_message_asks_for()
    {
        using var job = new Job(_cloud.Address, "tenants: { get: /tenants, rows: /items }\nscans:\n  per: tenants\n  get: /tenants/{tenants.id}/scans\n  rows: /items\n  identity: each");
        job.Yaml = job.Yaml.Replace("apis:", $"  each:\n    grant: client_credentials\n    token-endpoint: {_cloud.Address}/oauth2/token\n    client-id: brackwater-demo\n    secret: env:BRACKWATER_SECRET\n    token-parameters: {{ tenant: '{{tenants.id}}' }}\napis:");
        job.Save();
        var check = await job.DoAsync(["check", job.Path, "--live"]);
        var command = CommandIn(check.Out, "cursiva token get").Split('\n')[0].TrimEnd();
        command.ShouldEndWith("tenants.id=...");
        (await DoAsync(job, command.Replace("...", "T0001"))).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_run_that_is_not_there_leads_to_those_that_are()
    {
        using var job = new Job(_cloud.Address, Pull);
        (await job.RunAsync()).ShouldEndWith(0);
        (await DoAsync(job, CommandIn((await job.DoAsync(["runs", "show", job.Path, "9"])).ShouldEndWith(2).Error, "cursiva runs list"))).ShouldEndWith(0).Out.ShouldContain("done");
    }

    [Fact]
    public async Task Every_command_that_a_message_or_a_page_names_is_one_with_its_options()
    {
        using var folder = new TemporaryFolder();
        (await App.RunAsync(App.Cursiva, ["manual", folder["out"]], folder.Path, [])).ShouldEndWith(0);
        var pages = Directory.GetFiles(folder["out/man1"]).ToDictionary(page => Path.GetFileNameWithoutExtension(page).Replace('-', ' ').Replace("sign in", "sign-in"), page => File.ReadAllText(page).Replace("\\-", "-"));
        var named = 0;
        foreach (var file in Directory.GetFiles(Path.Combine(App.Root, "src"), "*.cs", SearchOption.AllDirectories).Concat(Directory.GetFiles(Path.Combine(App.Root, "docs"), "*.md")).Append(Path.Combine(App.Root, "README.md")).Where(file => !file.Contains("/obj/")))
        {
            foreach (var match in Commands().Matches(File.ReadAllText(file)).Where(match => !match.Value.EndsWith(':')))
            {
                var words = match.Value.Split([' ', '\n'], StringSplitOptions.RemoveEmptyEntries);
                var command = words.Length > 2 && pages.ContainsKey(string.Join(' ', words[..3])) ? string.Join(' ', words[..3]) : string.Join(' ', words[..2]);
                pages.ShouldContainKey(command, $"{match.Value} in {file}");
                foreach (var option in words.Where(word => word.StartsWith("--", StringComparison.Ordinal) && word != "--help"))
                    pages[command].ShouldContain($"\\fB{option}\\fR", customMessage: $"{match.Value} in {file}");
                named++;
            }
        }

        named.ShouldBeGreaterThan(150);
    }

    private async Task<long> RequestsAsync() => (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt64();

    private static string CommandIn(string message, string begin)
    {
        var match = Regex.Match(message, $"{begin}[^;\n]*");
        match.Success.ShouldBeTrue(message);
        return match.Value.Trim();
    }

    private static Task<Ended> DoAsync(Job job, string command, string? input = null) =>
        App.RunAsync("bash", ["-c", $"cursiva() {{ \"$CURSIVA\" \"$@\"; }}; {command}"], job.Folder, [.. job.Environment, ("CURSIVA", App.Cursiva)], input: input);

    // Words that begin a command, and the options behind it on the line.
    [GeneratedRegex(@"(?<=[`""'\s(])cursiva (?:run|check|report|deliver|ledger|runs|token|secret|sign-in|call|cert|demo|schema|draft|shape|payload)\b(?: [a-z]+\b)?(?:(?: [A-Za-z{][\w./{}-]*)* --[a-z-]+)*")]
    private static partial Regex Commands();

    [GeneratedRegex(@"(skip-when: \[.*?\])")]
    private static partial Regex SkipLine();
}
