using System.Diagnostics;
using System.Security.Cryptography;

namespace Cursiva.Cli.Tests;

/// <summary>The commands that an operator is told: of runs, overviews, schedules, kept secrets, payloads, the demo.</summary>
public sealed class OperationAdviceTests : IAsyncLifetime
{
    private const string Depots = "a: { get: /depots, rows: /items, paging: { next-link: /links/next } }";

    private readonly TemporaryFolder _folder = new();
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "300");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        _folder.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task A_stopped_run_is_resumed_from_a_folder_and_a_state_with_spaces_and_quotes()
    {
        using var job = new Job(_cloud.Address, "a: { get: '/consignments?size=50', rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }");
        Directory.CreateDirectory(job["it's late"]);
        File.Copy(job.Path, job["it's late/job.cursiva.yaml"]);
        var stopped = (await job.DoAsync(["run", "it's late/job.cursiva.yaml", "--state", "a state", "--max-requests", "3"])).ShouldEndWith(7);
        var command = new Advised("Advice.cs", "", "cursiva run {").CommandIn(stopped.Error);
        command.ShouldBe("cursiva run 'it'\\''s late/job.cursiva.yaml' --state 'a state'");
        (await Advised.RunAsync(command, job.Folder, job.Environment)).ShouldEndWith(0).Out.ShouldContain("of them landed before the stop");
    }

    [Fact]
    public async Task A_run_that_is_not_there_leads_to_those_that_are()
    {
        using var job = new Job(_cloud.Address, Depots);
        (await job.RunAsync()).ShouldEndWith(0);
        var missing = (await job.DoAsync(["runs", "show", job.Path, "9"])).ShouldEndWith(2);
        (await DoneAsync(job, new Advised("JobRuns.cs", "the job has no run {", "; see cursiva runs list"), missing)).Out.ShouldContain("done");
        var idle = (await job.DoAsync(["runs", "stop", job.Path])).ShouldEndWith(2);
        (await DoneAsync(job, new Advised("RunningCommands.cs", "no run of {", "see what ran: cursiva runs list"), idle)).Out.ShouldContain("late");
    }

    [Fact]
    public async Task A_run_that_is_watched_to_its_end_is_shown_by_the_command()
    {
        using var job = new Job(_cloud.Address, "a: { get: '/consignments?size=10', rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }");
        await _cloud.DelayAsync(200);
        Ended? watched = null;
        (await job.DoAsync(["run", job.Path, "--state", "a state"], async _ =>
        {
            await _cloud.UntilAsync(seen => seen.GetProperty("requests").GetInt32() > 1);
            watched = await job.DoAsync(["runs", "watch", job.Path, "--state", "a state"]);
        })).ShouldEndWith(0);
        (await DoneAsync(job, new Advised("RunningCommands.cs", " has ended; ", "cursiva runs show"), watched!)).Out.ShouldContain("300");
    }

    [Fact]
    public async Task A_run_that_does_not_stop_is_watched_or_ended_by_the_commands()
    {
        using var slow = new RefusingServer { Slow = TimeSpan.FromSeconds(45) };
        using var job = new SignInJob(slow.Address, "grant: none");
        File.AppendAllText(job.Path, "\nwrites:\n  notices: { sql: select id from depots, key: [id], steps: { create: { post: /slow, body: { title: '{row.id}' } } } }\n");
        Ended? told = null, watched = null;
        await job.DoAsync(["run", job.Path], during: async process =>
        {
            for (var i = 0; slow.SlowRequests == 0; i++)
            {
                i.ShouldBeLessThan(3000, "nothing was written in 30 s");
                await Task.Delay(10);
            }

            told = await job.DoAsync(["runs", "stop", job.Path]);
            var watching = Advised.RunAsync(new Advised("RunningCommands.cs", "was asked to stop, but process {", "watch it: cursiva runs watch").CommandIn(told.Error), job.Folder, job.Environment);
            using var kill = Process.Start("bash", ["-c", told.Error.Split("or end the process: ")[1].Split('\n')[0]]);
            await kill.WaitForExitAsync();
            process.Kill();
            watched = await watching;
        });
        watched!.ShouldEndWith(0).Out.ShouldContain("run");
    }

    [Fact]
    public async Task Notices_that_do_not_fit_are_shown_by_the_command_below_them()
    {
        using var job = new Job(_cloud.Address, string.Join('\n', Enumerable.Range(1, 8).Select(n => $"p{n}: {{ get: '/depots?size=5&n={n}', rows: /items }}")));
        var run = (await job.RunAsync()).ShouldEndWith(0);
        run.Out.ShouldNotContain("'p8'");
        (await DoneAsync(job, new Advised("SummaryView.cs", " more: ", "cursiva runs show"), run)).Out.ShouldContain("'p8'");
    }

    [Fact]
    public async Task An_overview_of_nothing_says_how_to_see_something()
    {
        using var job = new Job(_cloud.Address, Depots);
        var nothing = (await job.DoAsync(["overview"])).ShouldEndWith(0);
        (await Advised.RunAsync(new Advised("OverviewView.cs", "No job has run here", "Name job files or their folders to see when they are due: cursiva overview").CommandIn(nothing.Out).Replace("FOLDER", "."), job.Folder, job.Environment)).ShouldEndWith(0).Out.ShouldContain("late");
    }

    [Fact]
    public async Task An_alarm_leads_to_the_overview_of_its_state()
    {
        using var job = new Job(_cloud.Address, Depots, top: "schedule: { cron: \"* * * * *\", late-after: 0s }");
        File.SetLastWriteTimeUtc(job.Path, DateTime.UtcNow.AddHours(-1));
        File.WriteAllText(job["watch.cursiva.yaml"], "cursiva: 1\ndeliveries: { told: { when: late, message: { address: env:CHANNEL, body: { text: \"{run.message}\" } } } }");
        (await job.DoAsync(["overview", ".", "--late", "watch.cursiva.yaml", "--state", "a state"], null, ("CHANNEL", _cloud.Address + "/hooks/desk-channel-0815"))).ShouldEndWith(0);
        var text = (await _cloud.OfficeAsync()).GetProperty("messages")[0].GetProperty("text").GetString()!;
        (await Advised.RunAsync(new Advised("AlarmDesk.cs", "Looked at {", "; cursiva overview").CommandIn(text), job.Folder, [])).ShouldEndWith(0).Out.ShouldContain("late");
    }

    [Fact]
    public async Task A_schedule_is_made_listed_and_preferred_where_a_crontab_cannot_say_it()
    {
        using var job = new Job(_cloud.Address, Depots, top: "schedule: { cron: \"0 6 1 * 1\" }");
        var half = await job.DoAsync(["schedule"]);
        var command = new Advised("ScheduleCommand.cs", "", "name a job: cursiva schedule").CommandIn(half.Error);
        (await Advised.RunAsync(command.Replace("JOB", job.Path), job.Folder, job.Environment)).ShouldEndWith(0).Out.ShouldContain("OnCalendar=");
        (await Advised.RunAsync(new Advised("ScheduleCommand.cs", "", "or list the units: cursiva schedule").CommandIn(half.Error), job.Folder, job.Environment)).ShouldEndWith(0);
        var none = (await job.DoAsync(["schedule", "late", "--remove", "--into", "units"])).ShouldEndWith(2);
        (await Advised.RunAsync(new Advised("ScheduleCommand.cs", "there is no unit for job '", "list the units: cursiva schedule").CommandIn(none.Error), job.Folder, job.Environment)).ShouldEndWith(0);
        var both = (await job.DoAsync(["schedule", job.Path, "--crontab"])).ShouldEndWith(2);
        (await Advised.RunAsync(new Advised("CrontabLine.cs", "has a day of the month and a day of the week", "remove one of them, or use a systemd timer: cursiva schedule").CommandIn(both.Error) + " --into units", job.Folder, job.Environment)).ShouldEndWith(0);
        Directory.GetFiles(job["units"], "*.timer").ShouldNotBeEmpty();
    }

    [Fact]
    public async Task Secrets_are_kept_and_listed_by_the_commands_that_are_told()
    {
        using var job = new Job(_cloud.Address, Depots);
        var empty = (await job.DoAsync(["secret", "keep", "exchange"])).ShouldEndWith(2);
        var command = new Advised("SecretCommand.cs", "the secret is empty", "type it, or pipe it in: printf '%s' ... | cursiva secret keep").CommandIn(empty.Error);
        (await Advised.RunAsync("printf '%s' one | " + command.Replace("NAME", "one"), job.Folder, job.Environment)).ShouldEndWith(0);
        (await job.DoAsync(["secret", "remove", "one"])).ShouldEndWith(0);
        var nothing = (await job.DoAsync(["secret", "list"])).ShouldEndWith(0);
        (await Advised.RunAsync(new Advised("SecretCommand.cs", "", "Store a secret: cursiva secret keep").CommandIn(nothing.Out).Replace("NAME", "two"), job.Folder, job.Environment, "a secret")).ShouldEndWith(0);
        var other = (await job.DoAsync(["secret", "remove", "other"])).ShouldEndWith(2);
        (await DoneAsync(job, new Advised("SecretCommand.cs", "there is no secret named '", "cursiva secret list"), other)).Out.ShouldContain("two");
    }

    [Fact]
    public async Task A_payload_takes_its_key_from_an_API_of_a_job_by_the_command_that_is_told()
    {
        using var rsa = RSA.Create(2048);
        using var job = new Job(_cloud.Address, Depots, api: "encryption: { cipher: JWE, key: file:open.pem, algorithm: RSA-OAEP-256, content: A256GCM }");
        File.WriteAllText(job["open.pem"], rsa.ExportSubjectPublicKeyInfoPem());
        File.WriteAllText(job["own.pem"], rsa.ExportPkcs8PrivateKeyPem());
        File.WriteAllText(job["declaration.json"], "{\"number\":1}");
        var bare = await job.DoAsync(["payload", "encrypt", "declaration.json"]);
        var half = await job.DoAsync(["payload", job.Path, "encrypt", "declaration.json"]);
        foreach (var command in new[]
        {
            new Advised("PayloadCommand.cs", "name the key with --key", "or use an API of a job: cursiva payload JOB API").CommandIn(bare.Error),
            new Advised("PayloadCommand.cs", "name an API of the job", "name an API of the job: cursiva payload JOB API").CommandIn(half.Error),
        })
            (await Advised.RunAsync(command.Replace("JOB API", $"{job.Path} exchange") + " declaration.json", job.Folder, job.Environment)).ShouldEndWith(0).Out.ShouldContain("JWE");

        File.WriteAllText(job["box.json"], "[]");
        string[] opened = ["payload", "decrypt", "box.json", "--key", "file:own.pem", "--plain", "cbc", "--algorithm", "RSA1_5", "--result"];
        var refused = (await job.DoAsync(opened)).ShouldEndWith(8);
        var made = new Advised("PayloadCommand.cs", "it is not JSON with the members wrapped-key and data", "as printed by cursiva payload encrypt --plain").CommandIn(refused.Error);
        (await Advised.RunAsync(made + " cbc declaration.json --key file:open.pem --algorithm RSA1_5 --result > box.json", job.Folder, job.Environment)).ShouldEndWith(0);
        (await job.DoAsync(opened)).ShouldEndWith(0).Out.Trim().ShouldBe("{\"number\":1}");
    }

    [Theory]
    [InlineData("ListingProof.cs", "would never end: {", "and two pages with each other: cursiva call", "get: /depots, rows: /items, paging: { page-number: 1, parameter: leaf }")]
    [InlineData("PagedListing.cs", "would never end: {", "compare paging: with a page: cursiva call", "get: /odd/same-link, rows: /items, paging: { next-link: /links/next }")]
    public async Task Pages_that_repeat_are_seen_by_the_call_that_the_message_gives(string file, string what, string step, string pull)
    {
        using var job = new Job(_cloud.Address, $"a: {{ {pull} }}");
        var endless = (await job.RunAsync()).ShouldEndWith(5);
        (await DoneAsync(job, new Advised(file, what, step), endless)).Out.ShouldContain("\"items\"");
    }

    [Fact]
    public async Task What_the_demo_tells_to_look_at_is_there()
    {
        (string, string?)[] none = [];
        var demo = (await Advised.RunAsync("cursiva demo --rows 2000 --folder 'a demo'", _folder.Path, none)).ShouldEndWith(0);
        (await Advised.RunAsync(new Advised("DemoCommand.cs", "", "What changed: cursiva runs compare").CommandIn(demo.Out), _folder.Path, none)).ShouldEndWith(0);
        (await Advised.RunAsync(new Advised("DemoOperations.cs", "", "Later: cursiva overview").CommandIn(demo.Out), _folder.Path, none)).ShouldEndWith(0).Out.ShouldContain("done");
    }

    private static async Task<Ended> DoneAsync(Job job, Advised advised, Ended told) =>
        (await Advised.RunAsync(advised.CommandIn(told.All), job.Folder, job.Environment)).ShouldEndWith(0);
}
