namespace Cursiva.Cli.Tests;

/// <summary>Bad input and refusals: the right exit code, a message that says what is wrong and what is next, and nothing lost.</summary>
public sealed class RefusalTests : IAsyncLifetime
{
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "100", "--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Theory]
    [InlineData("html", "answered with a web page", "a web page answered that asks a person to sign in", "Please sign in to Brackwater")]
    [InlineData("not-json", "a name should be at byte 28", "does not match rows: and paging:", "{\"id\":2,}")]
    [InlineData("cut-off", "the page is cut off after 25 bytes", "does not match rows: and paging:", "{\"id\":")]
    [InlineData("no-rows", "there is nothing at rows: /items; the page has /rows, /count", "compare it with rows: and paging:", "\"count\":1")]
    [InlineData("rows-not-array", "rows: /items is not an array", "fetch the page by hand once", "\"id\":1")]
    [InlineData("numbers", "row 1 is not an object", "fetch the page by hand once", "[1,2,3]")]
    [InlineData("status/403", "answered with status 403", "lacks a permission or role", "refused on purpose")]
    [InlineData("status/404", "answered with status 404", "nothing at this address", "refused on purpose")]
    [InlineData("same-link", "would never end", "compare paging:", "/v2/odd/same-link")]
    [InlineData("foreign-link?to=https://evil.example/x", "a link leaves the API 'exchange': https://evil.example/x", "which they were declared for", "base:")]
    [InlineData("redirect?to=https://evil.example/x", "redirects to https://evil.example/x", "credentials never follow a redirect", "attempt 1")]
    public async Task What_the_API_answers_is_told_with_cause_and_next_step(string path, string what, string cause, string quote)
    {
        using var job = new Job(_cloud.Address, $"p: {{ get: '/odd/{path}', rows: /items, paging: {{ next-link: /links/next }} }}", "r: { sql: select * from p, write: r.csv }");
        var ended = (await job.RunAsync()).ShouldEndWith(5);
        foreach (var text in new[] { what, cause, quote, "/v2/odd/" })
            ended.Error.ShouldContain(text);
        ShouldBeCalm(job, ended);
    }

    [Theory]
    [InlineData("/odd/token/html", "answered with a web page", "a web page answered that asks a person to sign in")]
    [InlineData("/odd/token/empty", "has no token at /access_token", "RFC 6749 section 5.1")]
    [InlineData("/v2/me", "answered with status 401", "")]
    [InlineData("/nowhere", "answered with status 404", "not a token endpoint")]
    public async Task What_the_token_endpoint_answers_is_told_with_cause_and_next_step(string path, string what, string cause)
    {
        using var job = Plain();
        job.Yaml = job.Yaml.Replace("/oauth2/token", path);
        job.Save();
        var ended = (await job.RunAsync()).ShouldEndWith(4);
        ended.Error.ShouldContain(what);
        ended.Error.ShouldContain(cause);
        ShouldBeCalm(job, ended);
    }

    [Fact]
    public async Task A_wrong_secret_and_an_unknown_scope_are_told_in_the_servers_words()
    {
        using var job = Plain();
        var wrong = (await job.DoAsync(["run", job.Path], environment: ("BRACKWATER_SECRET", "nonsense"))).ShouldEndWith(4);
        wrong.Error.ShouldContain("invalid_client: the client secret is wrong");
        wrong.Error.ShouldContain("compare the secret's value with what the administrator gave");

        using var scoped = Plain(identity: "scope: [everything]");
        (await scoped.RunAsync()).ShouldEndWith(4).Error.ShouldContain("invalid_scope: scope 'everything' is not known");
    }

    [Fact]
    public async Task An_address_where_nobody_listens_is_told_after_retries_and_the_next_run_goes_on()
    {
        using var job = Plain();
        job.Yaml = job.Yaml.Replace(_cloud.Address + "/oauth2", "http://127.0.0.1:9/oauth2");
        job.Save();
        var ended = (await job.RunAsync()).ShouldEndWith(4);
        ended.Error.ShouldContain("connection refused at 127.0.0.1:");
        ended.Error.ShouldContain("attempt 4");
        (await job.RunAsync()).Error.ShouldContain("resuming run 1");
    }

    [Fact]
    public async Task A_missing_variable_is_named_before_any_request()
    {
        using var job = Plain();
        var ended = (await job.DoAsync(["run", job.Path], environment: ("BRACKWATER_SECRET", null))).ShouldEndWith(4);
        ended.Error.ShouldContain("the environment variable BRACKWATER_SECRET is not set");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(0);
        (await job.DoAsync(["check", job.Path], environment: ("BRACKWATER_SECRET", null))).ShouldEndWith(0).Out.ShouldContain("BRACKWATER_SECRET, a secret of identity 'app', is not set here");
    }

    [Fact]
    public async Task Bad_SQL_is_told_with_its_place_before_any_request()
    {
        using var job = new Job(_cloud.Address, Pieces.Consignments, """
            late:
              sql: |
                select reference
                from consignmentz
              write: late.csv
            bad:
              sql: select from where
              write: bad.csv
            """);
        var ended = (await job.RunAsync()).ShouldEndWith(3);
        ended.Error.ShouldContain("late.cursiva.yaml:24:12: report 'late' reads the table 'consignmentz', which does not exist; did you mean 'consignments'?");
        ended.Error.ShouldContain("the SQL of report 'bad' is wrong: syntax error");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task A_column_that_is_not_there_leaves_the_last_good_file_and_the_landed_rows()
    {
        using var job = new Job(_cloud.Address, Pieces.Consignments, "late: { sql: select refrence from consignments, write: late.csv }");
        Directory.CreateDirectory(job["reports"]);
        await File.WriteAllTextAsync(job["reports/late.csv"], "the last good one");
        var ended = (await job.RunAsync()).ShouldEndWith(8);
        ended.Error.ShouldContain("Referenced column \"refrence\" not found");
        ended.Error.ShouldContain("reference");
        (await File.ReadAllTextAsync(job["reports/late.csv"])).ShouldBe("the last good one");
        Directory.GetFiles(job["reports"]).Length.ShouldBe(1);
    }

    [Fact]
    public async Task An_empty_listing_gives_a_report_with_its_columns_and_no_rows()
    {
        using var job = new Job(_cloud.Address, "none: { get: /nothing, rows: /items, paging: { cursor: /page/cursor, parameter: cursor }, columns: { reference: text, pieces: integer } }", "none: { sql: select * from none, write: [none.csv, none.jsonl] }");
        (await job.RunAsync()).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/none.csv"])).ShouldBe("reference,pieces\r\n");
        (await File.ReadAllTextAsync(job["reports/none.jsonl"])).ShouldBe("");
    }

    [Fact]
    public async Task A_listing_that_has_become_empty_keeps_the_columns_last_seen()
    {
        using var job = new Job(_cloud.Address, "p: { get: '{path}', rows: /items }".Replace("{path}", "{+path}"), "p: { sql: \"select reference, pieces from p\", write: p.csv }", top: "inputs: { path: consignments }");
        (await job.RunAsync()).ShouldEndWith(0);
        var good = await File.ReadAllTextAsync(job["reports/p.csv"]);

        // Where there were rows, none at all are not believed: the good report stays.
        var empty = (await job.RunAsync("--input", "path=nothing")).ShouldEndWith(8);
        empty.Error.ShouldContain("report 'p' was not written: pull 'p' is empty, since it returned no rows, but run 1 had");
        (await File.ReadAllTextAsync(job["reports/p.csv"])).ShouldBe(good);
        job.Yaml = job.Yaml.Replace("rows: /items }", "rows: /items, allow-empty: true }");
        job.Save();
        (await job.RunAsync("--input", "path=nothing")).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/p.csv"])).ShouldBe("reference,pieces\r\n");
    }

    [Fact]
    public async Task Folders_that_cannot_be_written_are_told_before_any_request()
    {
        // A file in the way stops even the superuser, whom rights do not.
        using var job = Plain(reports: Pieces.All);
        await File.WriteAllTextAsync(job["reports"], "in the way");
        var ended = (await job.RunAsync()).ShouldEndWith(8);
        ended.Error.ShouldContain("the reports' folder cannot be written to");
        ended.Error.ShouldContain(job["reports"]);

        await File.WriteAllTextAsync(job["blocked"], "in the way");
        var state = (await job.RunAsync("--state", job["blocked/state"])).ShouldEndWith(1);
        state.Error.ShouldContain("the state folder cannot be used");
        state.Error.ShouldContain("--state or CURSIVA_STATE");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(0);
    }

    [Theory]
    [InlineData(2, "there is no option --npw; did you mean '--new'?", "run", "x.cursiva.yaml", "--npw")]
    [InlineData(2, "Required argument 'JOB' missing", "run")]
    [InlineData(2, "is not NAME=VALUE", "run", "x.cursiva.yaml", "--input", "since")]
    [InlineData(3, "there is no such file", "run", "x.cursiva.yaml")]
    [InlineData(3, "there is no such file", "check", "x.cursiva.yaml")]
    public async Task A_wrong_command_line_is_told(int code, string message, params string[] arguments)
    {
        using var job = Plain();
        var ended = (await job.DoAsync(arguments)).ShouldEndWith(code);
        ended.All.ShouldContain(message);
        ended.All.ShouldNotContain("   at ");
    }

    [Fact]
    public async Task A_damaged_landing_is_told_and_a_new_run_helps()
    {
        using var slow = await StandIn.StartAsync("--rows", "6000", "--latency", "20", "--client-secret", Job.Secret);
        using var job = new Job(slow.Address, Pieces.Consignments);
        await job.DoAsync(["run", job.Path], async process =>
        {
            // Pages are committed every 250 ms: after twenty more requests some are.
            await slow.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 40);
            process.Kill();
        });
        var segment = Directory.GetFiles(job.State, "segment-*", SearchOption.AllDirectories).Single();
        var bytes = await File.ReadAllBytesAsync(segment);
        bytes[10] ^= 1;
        await File.WriteAllBytesAsync(segment, bytes);
        var ended = (await job.RunAsync()).ShouldEndWith(1);
        ended.Error.ShouldContain("page 1 of pull 'consignments' is damaged");
        ended.Error.ShouldContain("--new");
    }

    private Job Plain(string reports = "", string identity = "") => new(_cloud.Address, Pieces.Consignments, reports, identity: identity);

    private static void ShouldBeCalm(Job job, Ended ended)
    {
        ended.All.ShouldNotContain("Exception");
        ended.All.ShouldNotContain("   at ");
        if (Directory.Exists(job["reports"]))
            Directory.GetFiles(job["reports"]).ShouldBeEmpty();
    }
}
