using System.Diagnostics;
using Cronos;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Operations;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Tests.Operations;

/// <summary>Units of a job, as systemd itself reads them.</summary>
public sealed class SystemdUnitsTests : IDisposable
{
    private static readonly DateTimeOffset s_now = new(2026, 3, 2, 0, 0, 0, TimeSpan.Zero);
    private static readonly bool s_hasSystemd = File.Exists("/usr/bin/systemd-analyze");

    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData("30 6 * * *", "UTC")]
    [InlineData("*/20 * * * *", "UTC")]
    [InlineData("5/20 3,15 * * *", "UTC")]
    [InlineData("30 6 * * 1-5", "Europe/Oslo")]
    [InlineData("30 6 * * MON,wed", "America/New_York")]
    [InlineData("0 22 * * 6,0", "Asia/Kolkata")]
    [InlineData("0 22 * * 5-7", "UTC")]
    [InlineData("15 4 1 * *", "UTC")]
    [InlineData("15 4 1-7 * 1", "Europe/Oslo")]
    [InlineData("0 0 1 JAN,jul *", "UTC")]
    [InlineData("10-50/10 8-18/2 */5 3-11/2 *", "UTC")]
    public async Task A_timer_elapses_when_the_expression_says(string cron, string zone)
    {
        Assert.SkipUnless(s_hasSystemd, "systemd-analyze is not installed");
        var of = TimeZoneInfo.FindSystemTimeZoneById(zone);
        var said = await AnalyzeAsync(["calendar", "--iterations=12", SystemdCalendar.Of(cron, of)!]);
        List<DateTimeOffset> elapses = [.. said.Output.Split('\n').Where(line => line.Contains("Next elapse:", StringComparison.Ordinal) || line.Contains("Iter.", StringComparison.Ordinal)).Select(Utc)];
        elapses.Count.ShouldBe(12);
        var at = DateTimeOffset.UtcNow;
        foreach (var elapse in elapses)
        {
            at = CronExpression.Parse(cron).GetNextOccurrence(at, of)!.Value;
            elapse.ShouldBe(at.ToUniversalTime(), cron);
        }
    }

    [Theory]
    [InlineData("0 0 L * *")]
    [InlineData("0 0 * * 1#2")]
    [InlineData("0 0 15W * *")]
    public void What_systemd_cannot_say_is_refused(string cron)
    {
        SystemdCalendar.Of(cron, TimeZoneInfo.Utc).ShouldBeNull();
        var job = Read($"schedule: {{ cron: \"{cron}\" }}");
        Should.Throw<RefusedException>(() => SystemdUnits.Of(job, job.Schedule!, new UnitOrder("/usr/bin/cursiva", []), s_now)).Refusal.NextStep!.ShouldContain("--crontab");
        CrontabLine.Of(job, job.Schedule!, new UnitOrder("/usr/bin/cursiva", [])).ShouldContain(cron);
    }

    [Theory]
    [InlineData(false, null)]
    [InlineData(false, "www-data")]
    [InlineData(true, null)]
    [InlineData(true, null, true)]
    public async Task The_units_are_clean_and_confined(bool ofUser, string? runAs, bool unconfined = false)
    {
        Assert.SkipUnless(s_hasSystemd, "systemd-analyze is not installed");
        var job = Read("title: \"100% of $HOME, \\\"quoted\\\"\"\nschedule: { at: \"06:30\", on: weekdays, zone: Europe/Oslo }", runAs is null ? "/var/lib/cursiva/reports" : "/srv/reports");
        var order = new UnitOrder("/bin/true", ["--input", "since=50% of $X \"y\""]) { IsOfUser = ofUser, RunAs = runAs, IsUnconfined = unconfined };
        var folder = new UnitFolder(_folder["units"], new Disk());
        folder.Install([.. SystemdUnits.Of(job, job.Schedule!, order, s_now), .. SystemdUnits.Overview(job, order)]).Count.ShouldBe(6);
        string[] scope = ofUser ? ["--user"] : [];
        var units = Directory.GetFiles(_folder["units"]);
        var verified = await AnalyzeAsync([.. scope, "verify", "--man=no", .. units]);
        (verified.Code, verified.Output).ShouldBe((0, ""));
        foreach (var service in units.Where(unit => unit.EndsWith(".service", StringComparison.Ordinal)))
        {
            var rated = await AnalyzeAsync([.. scope, "security", "--offline=true", "--threshold=" + (unconfined ? "70" : ofUser ? "49" : "20"), service]);
            rated.Code.ShouldBe(0, rated.Output);
            if (!unconfined)
                rated.Output.ShouldContain(" OK ");
        }

        var text = File.ReadAllText(_folder["units/cursiva-depots.service"]);
        text.ShouldContain("LoadCredential=app-secret:/etc/cursiva/credentials/app-secret\n");
        text.ShouldContain(runAs is null ? ofUser ? unconfined ? "NoNewPrivileges=yes" : "PrivateUsers=yes" : "DynamicUser=yes\nUser=cursiva\n" : "User=www-data\n");
        text.ShouldContain("\"since=50%% of $$X \\\"y\\\"\"");
        if (runAs is not null)
            text.ShouldContain("ReadWritePaths=/srv/reports\n");
    }

    [Fact]
    public void A_refresh_token_that_would_end_between_runs_is_kept_alive()
    {
        string[] Names(string schedule) => [.. SystemdUnits.Of(Read(schedule), Read(schedule).Schedule!, new UnitOrder("/usr/bin/cursiva", []), s_now).Select(unit => unit.Name)];
        Names("schedule: { at: \"06:30\", on: weekdays }").ShouldBe(["cursiva-depots.service", "cursiva-depots.timer", "cursiva-depots-clerk-token.service", "cursiva-depots-clerk-token.timer"]);
        Names("schedule: { at: \"06:30\" }").ShouldBe(["cursiva-depots.service", "cursiva-depots.timer"]);
    }

    [Fact]
    public void Only_our_own_units_are_touched_and_those_of_one_job_alone_removed()
    {
        var folder = new UnitFolder(_folder["units"], new Disk());
        var weekdays = Read("schedule: { at: \"06:30\", on: weekdays }");
        var order = new UnitOrder("/usr/bin/cursiva", []);
        var units = SystemdUnits.Of(weekdays, weekdays.Schedule!, order, s_now);
        folder.Install(units).Count.ShouldBe(4);
        folder.Install(units).ShouldBeEmpty("nothing is different");
        var longer = weekdays with { Name = "depots-clerk" };
        folder.Install(SystemdUnits.Of(longer, longer.Schedule!, order, s_now));
        File.WriteAllText(_folder["units/cursiva-own.service"], "[Service]\nExecStart=/bin/true\n");
        folder.List().Count.ShouldBe(8);
        Should.Throw<RefusedException>(() => folder.Install([new UnitFile("cursiva-own.service", "x")])).Refusal.What.ShouldContain("was not made by cursiva schedule");
        folder.Remove("depots").Select(path => Path.GetFileName(path)).ShouldBe(["cursiva-depots-clerk-token.service", "cursiva-depots-clerk-token.timer", "cursiva-depots.service", "cursiva-depots.timer"]);
        folder.List().Select(unit => unit.Name).ShouldBe(["cursiva-depots-clerk-clerk-token.service", "cursiva-depots-clerk-clerk-token.timer", "cursiva-depots-clerk.service", "cursiva-depots-clerk.timer"]);
        folder.Remove("own").ShouldBeEmpty();
    }

    [Fact]
    public void Nobody_is_made_root_to_write_a_report()
    {
        var job = Read("schedule: { at: \"06:30\" }", "/etc/reports");
        Should.Throw<RefusedException>(() => SystemdUnits.Of(job, job.Schedule!, new UnitOrder("/usr/bin/cursiva", []), s_now)).Refusal.NextStep!.ShouldContain("--run-as");
        var line = Should.Throw<RefusedException>(() => CrontabLine.Of(job, Read("schedule: { cron: \"0 4 1 * 1\" }").Schedule!, new UnitOrder("/usr/bin/cursiva", [])));
        line.Refusal.What.ShouldContain("day of the month and a day of the week");
    }

    private Job Read(string top, string output = "/var/lib/cursiva/reports") => JobReader.Read(
        _folder.Write("depots.cursiva.yaml", $$"""
            cursiva: 1
            {{top}}
            out: {{output}}
            identities:
              app: { grant: client_credentials, token-endpoint: https://x.example/t, client-id: a, secret: "systemd:app-secret" }
              clerk: { grant: refresh_token, token-endpoint: https://x.example/t, client-id: a, secret: "env:S", refresh-token-lives: 2d }
            apis: { x: { base: https://x.example, identity: app } }
            pulls: { p: { get: /, rows: "" } }
            reports: { r: { sql: select * from p, write: r.csv } }
            """), new GivenInputs([], [], _ => null), s_now);

    private async Task<(int Code, string Output)> AnalyzeAsync(string[] arguments)
    {
        var start = new ProcessStartInfo("/usr/bin/systemd-analyze", arguments) { RedirectStandardOutput = true, RedirectStandardError = true };
        (start.Environment["XDG_RUNTIME_DIR"], start.Environment["TZ"], start.Environment["LANG"]) = (_folder.Path, "UTC", "C.UTF-8");
        using var process = Process.Start(start)!;
        var (output, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        await process.WaitForExitAsync();
        return (process.ExitCode, await output + await error);
    }

    private static DateTimeOffset Utc(string line) =>
        DateTimeOffset.ParseExact(line[(line.IndexOf(": ", StringComparison.Ordinal) + 2)..].Trim(), "ddd yyyy-MM-dd HH:mm:ss 'UTC'", System.Globalization.CultureInfo.InvariantCulture, System.Globalization.DateTimeStyles.AssumeUniversal);
}
