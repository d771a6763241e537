using System.Diagnostics;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>What has not been sent, or may have: the commands of the messages decide it, and send it.</summary>
public sealed class LedgerAdviceTests : IAsyncLifetime
{
    private const string Message = "deliveries:\n  to-the-desk: { report: r, message: { address: env:CHANNEL } }";

    private const string Writes = "writes:\n  notices: { sql: select reference from a, key: [reference], steps: { create: { post: /notices, body: { title: '{row.reference}' } } }, parallel: 1 }";

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "60");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task What_stood_in_the_way_is_mended_and_it_is_sent()
    {
        using var job = With("deliveries:\n  share: { report: r, folder: { path: share } }");
        File.WriteAllText(job["share"], "not mounted");
        var pending = (await job.RunAsync()).ShouldEndWith(9);
        File.Delete(job["share"]);
        await DoneAsync(job, new Advised("LedgerWords.cs", "not been sent: ", "fix the cause, then send it: cursiva deliver"), pending);
        File.Exists(job["share/r.csv"]).ShouldBeTrue();
    }

    [Fact]
    public async Task A_message_that_was_refused_is_sent_again_by_the_two_commands()
    {
        using var job = With(Message);
        await _cloud.BehaveAsync("refuse");
        var refused = (await RunAsync(job)).ShouldEndWith(9);
        await _cloud.BehaveAsync("");
        var commands = new Advised("LedgerWords.cs", "not been sent: ", "see the answer; to send it again: cursiva ledger").CommandsIn(refused.Error);
        commands[1].ShouldBe(new Advised("LedgerWords.cs", "not been sent: ", ", then cursiva deliver").CommandIn(refused.Error));
        foreach (var command in commands)
            (await Advised.RunAsync(command, job.Folder, Environment(job))).ShouldEndWith(0);
        (await _cloud.OfficeAsync()).GetProperty("messages").GetArrayLength().ShouldBe(1);
    }

    [Theory]
    [InlineData("--sent", 0)]
    [InlineData("--again", 1)]
    [InlineData("--drop", 0)]
    public async Task A_message_in_doubt_is_decided_by_the_command_and_either_option(string option, int messages)
    {
        using var job = With(Message);
        await _cloud.BehaveAsync("busy");
        var doubted = (await RunAsync(job)).ShouldEndWith(9);
        await _cloud.BehaveAsync("");
        doubted.Error.ShouldContain("or --again, or --drop");
        var command = new Advised("LedgerWords.cs", "not been sent: ", " arrived, then decide: cursiva ledger").CommandIn(doubted.Error);
        (await Advised.RunAsync(command.Replace("--sent", option), job.Folder, Environment(job))).ShouldEndWith(0);
        (await Advised.RunAsync("cursiva deliver " + job.Path, job.Folder, Environment(job))).ShouldEndWith(0);
        (await _cloud.OfficeAsync()).GetProperty("messages").GetArrayLength().ShouldBe(messages);
    }

    [Fact]
    public async Task Items_in_doubt_are_named_by_the_command_and_decided_alone()
    {
        using var job = With(Writes.Replace("from a", "from a limit 3"));
        await _cloud.BehaveAsync("lose-answers");
        var doubted = (await RunAsync(job)).ShouldEndWith(9);
        await _cloud.BehaveAsync("");
        var decide = new Advised("LedgerWords.cs", "not been sent: ", " arrived, then decide: cursiva ledger").CommandIn(doubted.Error);
        var item = (await DoneAsync(job, new Advised("LedgerWords.cs", "not been sent: ", "; cursiva ledger").CommandIn(doubted.Error))).Out.Split([' ', '\n']).First(word => word.StartsWith("notices-1/", StringComparison.Ordinal));
        var command = decide.Replace("notices-1", item);
        (await DoneAsync(job, command)).Out.ShouldNotContain(item);
        foreach (var wrong in new[] { command, command.Replace("BFX-", "none-") })
        {
            var refused = (await Advised.RunAsync(wrong, job.Folder, Environment(job))).ShouldEndWith(2);
            (await DoneAsync(job, new Advised("ItemDecision.cs", "", "cursiva ledger").CommandIn(refused.Error))).Out.ShouldContain(item);
        }

        var unknown = (await job.DoAsync(["ledger", job.Path, "--items", "nobody-1"])).ShouldEndWith(2);
        (await DoneAsync(job, new Advised("LedgerCommand.cs", "the ledger has no write '", "cursiva ledger"), unknown)).Out.ShouldContain("notices-1");
        await DoneAsync(job, decide);
        (await DoneAsync(job, "cursiva ledger " + job.Path)).Out.ShouldNotContain("in doubt");
    }

    [Fact]
    public async Task Items_that_do_not_fit_the_list_are_shown_by_the_command_below_it()
    {
        // Several of one title are refused, and none five times in a row, which would end the write.
        using var job = With(Writes.Replace("reference from a", "reference, case when right(reference, 1) in (''0'', ''5'') then reference else ''same'' end as title from a order by reference").Replace("'{row.reference}'", "'{row.title}'").Replace("sql: ", "sql: '").Replace(", key:", "', key:"));
        await _cloud.BehaveAsync("unique-titles");
        (await RunAsync(job)).ShouldEndWith(9);
        var listed = (await job.DoAsync(["ledger", job.Path])).ShouldEndWith(0);
        listed.Out.Split('\n').Count(line => line.Contains("notices-1/")).ShouldBe(20);
        (await DoneAsync(job, new Advised("LedgerView.cs", "", "cursiva ledger"), listed)).Out.Split('\n').Count(line => line.Contains("refused")).ShouldBe(47);
    }

    [Fact]
    public async Task A_secret_that_is_missing_when_it_is_sent_keeps_it_here_until_the_command_sends_it()
    {
        using var job = With(Message);
        var missing = (await job.RunAsync()).ShouldEndWith(9);
        missing.Error.ShouldContain("CHANNEL");
        await DoneAsync(job, new Advised("DeliveryStage.cs", "", "; then send what is pending: cursiva deliver"), missing);
        (await _cloud.OfficeAsync()).GetProperty("messages").GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task What_an_orderly_stop_left_is_sent_by_the_command()
    {
        using var job = With(Message + "\n  to-the-other-desk: { report: r, message: { address: env:CHANNEL } }");
        using var slow = new RefusingServer { Slow = TimeSpan.FromSeconds(2) };
        (string, string?)[] environment = [.. job.Environment, ("CHANNEL", slow.Address + "/slow")];
        var stopped = (await job.DoAsync(["run", job.Path], async process =>
        {
            for (var i = 0; !Directory.Exists(job["state/jobs/late/outbox"]) || Directory.GetFileSystemEntries(job["state/jobs/late/outbox"]).Length < 2; i++)
            {
                i.ShouldBeLessThan(3000, "nothing was stored in 30 s");
                await Task.Delay(10);
            }

            await Task.Delay(400);
            using var kill = Process.Start("kill", ["-TERM", $"{process.Id}"]);
            await kill.WaitForExitAsync();
        }, environment)).ShouldEndWith(9);
        var command = new Advised("JobRun.cs", "stopped on request before everything was delivered", "cursiva deliver").CommandIn(stopped.All);
        slow.SlowRequests.ShouldBe(1);
        (await Advised.RunAsync(command, job.Folder, environment)).ShouldEndWith(0);
        slow.SlowRequests.ShouldBe(2);
    }

    [Theory]
    [InlineData("--sent", "nobody-1", "the ledger has no entry '")]
    [InlineData("--again", "share-1", "there is nothing to decide about ")]
    public async Task What_is_decided_about_nothing_leads_to_what_is_there(string option, string entry, string what)
    {
        using var job = With("deliveries:\n  share: { report: r, folder: { path: share } }");
        (await job.RunAsync()).ShouldEndWith(0);
        var ended = (await job.DoAsync(["ledger", job.Path, option, entry])).ShouldEndWith(2);
        ended.Error.ShouldContain(what);
        (await DoneAsync(job, new Advised("JobDeliveries.cs", "", "cursiva ledger"), ended)).Out.ShouldContain("share-1");
    }

    [Fact]
    public async Task A_message_about_a_failed_run_has_a_command_that_works_in_any_folder()
    {
        using var job = With("deliveries:\n  told: { when: failed, message: { address: env:CHANNEL, body: { text: '{run.message}' } } }");
        job.Yaml = job.Yaml.Replace("select * from a", "select cast(reference as integer) as n from a");
        job.Save();
        (await RunAsync(job, "--state", "a state")).ShouldEndWith(8);
        job.Yaml = job.Yaml.Replace("cast(reference as integer) as n", "reference");
        job.Save();
        var told = (await _cloud.OfficeAsync()).GetProperty("messages")[0].GetProperty("text").GetString()!;
        var command = new Advised("ReportException.cs", "the SQL of report '", "correct the SQL, and write the reports with cursiva report").CommandIn(told);
        (await Advised.RunAsync(command, "/", Environment(job))).ShouldEndWith(0);
        File.Exists(job["reports/r.csv"]).ShouldBeTrue();
    }

    [Theory]
    [InlineData("in a state")]
    [InlineData(null)]
    public async Task The_overview_names_what_waits_with_commands_that_find_the_state(string? state)
    {
        using var job = With("deliveries:\n  share: { report: r, folder: { path: share } }\n" + Message.Replace("deliveries:\n", ""));
        string[] where = state is null ? [] : ["--state", state];
        File.WriteAllText(job["share"], "not mounted");
        await _cloud.BehaveAsync("busy");
        (await RunAsync(job, where)).ShouldEndWith(9);
        await _cloud.BehaveAsync("");
        File.Delete(job["share"]);
        var look = (await job.DoAsync(["overview", ".", "--format", "json", .. where])).ShouldEndWith(0);
        var told = string.Join('\n', JsonDocument.Parse(look.Out).RootElement.GetProperty("jobs")[0].GetProperty("conditions").EnumerateArray().Select(one => one.GetProperty("words").GetString()));
        (await DoneAsync(job, new Advised("OverviewDesk.cs", "in doubt", "in doubt: cursiva ledger").CommandIn(told))).Out.ShouldContain("to-the-desk-1");
        var sent = await Advised.RunAsync(new Advised("OverviewDesk.cs", "not been sent", "not been sent: cursiva deliver").CommandIn(told), job.Folder, Environment(job));
        sent.All.ShouldContain("share-1");
        File.Exists(job["share/r.csv"]).ShouldBeTrue();
    }

    private Job With(string more)
    {
        var job = new Job(_cloud.Address, "a: { get: /consignments, rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }", "r: { sql: select * from a, write: r.csv }");
        job.Yaml += "\n" + more;
        job.Save();
        return job;
    }

    private Task<Ended> RunAsync(Job job, params string[] arguments) => job.DoAsync(["run", job.Path, .. arguments], null, [.. Environment(job)]);

    private (string, string?)[] Environment(Job job) => [.. job.Environment, ("CHANNEL", _cloud.Address + "/hooks/desk-channel-0815")];

    private Task<Ended> DoneAsync(Job job, Advised advised, Ended told) => DoneAsync(job, advised.CommandIn(told.All));

    private async Task<Ended> DoneAsync(Job job, string command) => (await Advised.RunAsync(command, job.Folder, Environment(job))).ShouldEndWith(0);
}
