using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Write-backs through the built program: planned, done once, told in reports and in the ledger.</summary>
public sealed class WriteTests : IAsyncLifetime
{
    private const string Steps = """
        board: { get: /boards, rows: /items, where: { /name: Rail } }
              find: { get: "/notices{?title}", query: { title: "{row.depot}" }, rows: /items, where: { /title: "{row.depot}" }, paging: { next-link: /links/next, optional: true } }
              update: { when: find found, patch: "/notices/{find.id}", body: { weight: "{row.weight}" } }
              create: { when: find not-found, post: /notices, body: { title: "{row.depot}", board: "{board.id}", weight: "{row.weight}" } }
        """;

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "600");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task Documents_follow_the_rows_and_the_report_tells_what_became_of_each()
    {
        using var job = Notices();
        var first = (await job.RunAsync()).ShouldEndWith(0);
        first.Out.ShouldContain("notices-1  at  exchange: 12 items (create 12)");
        first.Error.ShouldContain("notices-1: create 12");
        var notices = (await OfficeAsync()).GetProperty("notices");
        notices.GetArrayLength().ShouldBe(12);
        notices[0].GetProperty("board").GetRawText().ShouldBe("11");
        notices[0].GetProperty("weight").GetRawText().ShouldMatch(@"^\d+\.\d\d$");
        File.ReadAllLines(job["reports/done.csv"])[1].ShouldBe("\"[\"\"Brine Cross\"\"]\",create,sent,");

        (await job.RunAsync("--new")).ShouldEndWith(0).Out.ShouldContain("(unchanged 12)");
        File.ReadAllLines(job["reports/done.csv"])[1].ShouldBe("\"[\"\"Brine Cross\"\"]\",,unchanged,");
        (await job.DoAsync(["report", job.Path, "--run", "1", "--out", "old"])).ShouldEndWith(0);
        File.ReadAllLines(job["old/done.csv"])[1].ShouldBe("\"[\"\"Brine Cross\"\"]\",create,sent,");
        (await OfficeAsync()).GetProperty("counts").GetRawText().ShouldBe("{\"created\":12}");
        (await job.DoAsync(["ledger", job.Path])).Out.ShouldContain("create 12");
    }

    [Fact]
    public async Task A_dry_run_shows_every_request_and_sends_none()
    {
        using var job = Notices();
        (await job.DoAsync(["run", job.Path, "--dry-run"])).ShouldEndWith(0).Out.ShouldContain("no run has landed all its rows");
        (await job.RunAsync("--no-deliveries")).ShouldEndWith(0);
        var asked = (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt64();
        (await job.DoAsync(["run", job.Path, "--dry-run"])).ShouldEndWith(0).Out.ShouldContain("12 items");
        (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt64().ShouldBe(asked);
        File.ReadAllLines(job["dry-run/writes/notices.jsonl"]).Length.ShouldBe(48);

        (await job.DoAsync(["run", job.Path, "--dry-run", "--ask"])).ShouldEndWith(0).Out.ShouldContain("create 12");
        var create = File.ReadAllLines(job["dry-run/writes/notices.jsonl"]).Select(line => JsonDocument.Parse(line).RootElement).First();
        create.GetProperty("method").GetString().ShouldBe("POST");
        create.GetProperty("body").GetProperty("board").GetRawText().ShouldBe("11");
        (await OfficeAsync()).GetProperty("notices").GetArrayLength().ShouldBe(0);

        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(0).Out.ShouldContain("create 12");
        (await OfficeAsync()).GetProperty("notices").GetArrayLength().ShouldBe(12);
        File.WriteAllText(job["dry-run/mine.txt"], "");
        (await job.DoAsync(["run", job.Path, "--dry-run"])).ShouldEndWith(2).Error.ShouldContain("contains other files");
        File.Exists(job["dry-run/mine.txt"]).ShouldBeTrue();
    }

    [Theory]
    [InlineData("refuse", "refused", "5 items in a row were refused")]
    [InlineData("busy", "in doubt", "status 503")]
    public async Task An_office_that_is_closed_leaves_the_run_done_and_the_items_for_later(string manner, string state, string said)
    {
        using var job = Notices(parallel: "parallel: 1");
        await BehaveAsync(manner);
        var ended = (await job.RunAsync()).ShouldEndWith(9);
        ended.Error.ShouldContain(said);
        ended.Error.ShouldContain("1 write has not been sent: notices-1");
        (await job.DoAsync(["runs", "list", job.Path])).Out.ShouldContain("done");
        File.ReadAllLines(job["reports/done.csv"]).ShouldContain(line => line.Contains(state));
        await BehaveAsync("");
        await job.DoAsync(["deliver", job.Path]);
        if (manner == "refuse")
        {
            (await job.DoAsync(["ledger", job.Path, "--again", "notices-1"])).ShouldEndWith(0);
            (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(0);
        }

        (await OfficeAsync()).GetProperty("notices").GetArrayLength().ShouldBe(12);
    }

    [Fact]
    public async Task An_item_in_doubt_is_named_and_decided_alone()
    {
        using var job = Notices(parallel: "parallel: 1", steps: "create: { post: /notices, body: { title: \"{row.depot}\", weight: \"{row.weight}\" } }");
        await BehaveAsync("lose-answers");
        (await job.RunAsync()).ShouldEndWith(9).Error.ShouldContain($"cursiva ledger {job.Path} --sent notices-1");
        await BehaveAsync("");
        var item = JsonDocument.Parse((await job.DoAsync(["ledger", job.Path, "--format", "json"])).Out).RootElement[0].GetProperty("items")[0];
        item.GetProperty("state").GetString().ShouldBe("in doubt");
        var name = item.GetProperty("id").GetString()!;
        (await job.DoAsync(["ledger", job.Path])).Out.ShouldContain(name);
        (await job.DoAsync(["ledger", job.Path, "--sent", name])).ShouldEndWith(0).Out.ShouldNotContain(name);
        (await job.DoAsync(["ledger", job.Path, "--sent", name])).ShouldEndWith(2).Error.ShouldContain("it is sent");
        (await job.DoAsync(["ledger", job.Path, "--items", "notices-1"])).ShouldEndWith(0).Out.ShouldContain(name);
        (await job.DoAsync(["ledger", job.Path, "--items", "to-nobody-1"])).ShouldEndWith(2).Error.ShouldContain("the ledger has no write 'to-nobody-1'");
    }

    [Theory]
    [InlineData("lose-answers", 12)]
    [InlineData("changed-meanwhile", 12)]
    public async Task Answers_that_are_lost_make_nothing_twice(string manner, int notices)
    {
        using var job = Notices();
        await BehaveAsync(manner);
        (await job.RunAsync()).ShouldEndWith(0);
        var office = await OfficeAsync();
        office.GetProperty("notices").GetArrayLength().ShouldBe(notices);
        office.GetProperty("counts").TryGetProperty("created-twice", out _).ShouldBeFalse();
    }

    [Theory]
    [InlineData("twin", "found several with /name 'twin'")]
    [InlineData("nobody", "found nothing with /name 'nobody'")]
    public async Task A_role_is_given_to_one_person_alone(string name, string said)
    {
        using var job = Write($"""
              roles:
                sql: select 'night-clerk' as name, 'reader' as role union all select '{name}', 'reader'
                key: [name, role]
                steps:
                  person: {"{"} get: "/people{"{"}?name{"}"}", query: {"{"} name: "{"{"}row.name{"}"}" {"}"}, rows: /items, where: {"{"} /name: "{"{"}row.name{"}"}" {"}"} {"}"}
                  assign: {"{"} post: "/people/{"{"}person.id{"}"}/roles", body: {"{"} role: "{"{"}row.role{"}"}" {"}"} {"}"}
                skip-when: [{"{"} status: 409, at: /code, is: has_it, because: has it already {"}"}]
            """);
        (await job.RunAsync()).ShouldEndWith(9).Error.ShouldContain(said);
        (await OfficeAsync()).GetProperty("assignments").GetRawText().ShouldBe("[\"p-1 reader\"]");
        (await job.RunAsync("--new")).ShouldEndWith(9);
        (await OfficeAsync()).GetProperty("counts").GetRawText().ShouldBe("{\"assigned\":1,\"assigned-twice\":1}");
    }

    [Theory]
    [InlineData("sql: select depot, 1 as weight from consignments", "has two rows with the key")]
    [InlineData("sql: select nullif(depot, depot) as depot, 1 as weight from consignments limit 1", "has a row without a value in depot")]
    [InlineData("sql: select 1 as weight", "has no column 'depot', listed in key:; it has weight")]
    [InlineData("sql: select depot from consignments limit 1", "has no column for {row.weight}; it has depot")]
    [InlineData("sql: select depot, nothing as weight from consignments", "the SQL of write 'notices' failed")]
    public async Task SQL_that_gives_no_items_is_told_before_anything_is_sent(string sql, string said)
    {
        using var job = Notices(sql);
        (await job.RunAsync()).ShouldEndWith(8).Error.ShouldContain(said);
        (await OfficeAsync()).GetProperty("notices").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_report_that_cannot_be_written_keeps_the_items_back()
    {
        using var job = Notices();
        job.Yaml = job.Yaml.Replace("reports:\n", "reports:\n  strict: { sql: select * from consignments, require: { at-most: 1 }, write: strict.csv }\n");
        job.Save();
        (await job.RunAsync()).ShouldEndWith(8);
        (await OfficeAsync()).GetProperty("notices").GetArrayLength().ShouldBe(0);
        job.Yaml = job.Yaml.Replace("at-most: 1 ", "at-most: 9999 ");
        job.Save();
        (await job.DoAsync(["report", job.Path])).ShouldEndWith(0).Out.ShouldContain("create 12");
        (await OfficeAsync()).GetProperty("notices").GetArrayLength().ShouldBe(12);
    }

    [Fact]
    public async Task A_job_may_write_no_report_at_all()
    {
        using var job = Notices();
        job.Yaml = job.Yaml.Replace("reports:\n  done: { sql: \"select item, step, state, said from written order by item::varchar\", write: done.csv }\n", "");
        job.Yaml.ShouldNotContain("reports:");
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0).Out.ShouldContain("create 12");
        Directory.Exists(job["reports"]).ShouldBeFalse();
    }

    [Fact]
    public async Task An_empty_pull_changes_nothing()
    {
        using var job = Notices(more: "remove: { gone: { delete: '/notices/{create.id}' } }\n    most-changes: 100%");
        (await job.RunAsync()).ShouldEndWith(0);
        job.Yaml = job.Yaml.Replace("get: /consignments", "get: '/consignments?since=2199-01-01'").Replace("write: done.csv", "write: done.csv, require: { at-least: 0 }");
        job.Save();
        (await job.RunAsync("--new")).ShouldEndWith(8).Error.ShouldContain("changed nothing: pull 'consignments' is empty");
        (await OfficeAsync()).GetProperty("notices").GetArrayLength().ShouldBe(12);
    }

    private Job Notices(string sql = "sql: select depot, sum(weight_kg) as weight from consignments group by depot", string parallel = "parallel: 4", string more = "only-if-changed: true", string steps = Steps) => Write($"""
          notices:
            {sql}
            key: [depot]
            steps:
              {steps}
            {parallel}
            {more}
        """);

    private Job Write(string writes)
    {
        var job = new Job(_cloud.Address, "consignments: { get: /consignments, rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }", "done: { sql: \"select item, step, state, said from written order by item::varchar\", write: done.csv }");
        job.Yaml += "\nwrites:\n" + writes;
        job.Save();
        return job;
    }

    private Task<JsonElement> OfficeAsync() => _cloud.OfficeAsync();

    private Task BehaveAsync(string manner) => _cloud.BehaveAsync(manner);
}
