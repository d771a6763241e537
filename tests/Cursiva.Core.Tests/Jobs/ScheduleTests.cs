using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>When a job runs: what is read, and which times come of it, on days on which clocks change, too.</summary>
public sealed class ScheduleTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData("schedule: { at: \"06:30\" }", "daily at 06:30", "2026-03-02T06:30:00Z")]
    [InlineData("schedule: { at: [\"06:30\", \"18:30\"], on: weekdays, zone: Europe/Oslo }", "weekdays at 06:30 and 18:30", "2026-03-02T05:30:00Z")]
    [InlineData("schedule: { at: \"6:30\", on: [sat, sun] }", "sat, sun at 6:30", "2026-03-07T06:30:00Z")]
    [InlineData("schedule: { cron: \"0 4 1 * *\" }", "cron 0 4 1 * *", "2026-04-01T04:00:00Z")]
    [InlineData("expected: weekdays by 07:00", "weekdays by 07:00", "2026-03-02T07:00:00Z")]
    public void A_schedule_is_read(string text, string words, string next)
    {
        var job = Read(text);
        var schedule = (job.Schedule ?? job.Expected)!;
        schedule.Words.ShouldBe(words);
        schedule.After(At("2026-03-02T00:00:00Z"))!.Value.ToUniversalTime().ShouldBe(At(next));
    }

    [Theory]
    [InlineData("schedule: { on: daily }", "schedule: has no time")]
    [InlineData("schedule: { at: \"06:30\", cron: \"0 4 * * *\" }", "schedule: has both at: and cron:")]
    [InlineData("schedule: { at: \"25:30\" }", "'25:30' is not a time of day")]
    [InlineData("schedule: { at: \"06:30\", on: workdays }", "'workdays' is not a day")]
    [InlineData("schedule: { cron: \"0 4 * *\" }", "'0 4 * *' is not a cron expression")]
    [InlineData("schedule: { cron: \"0 4 * * *\", on: daily }", "on: without at:")]
    [InlineData("expected: by 07:00", "does not say when a run must be done")]
    [InlineData("expected: daily by noon", "does not say when a run must be done")]
    public void What_is_none_is_told(string text, string found) =>
        Should.Throw<JobMistakesException>(() => Read(text)).Mistakes.ShouldContain(mistake => mistake.Found.Contains(found, StringComparison.Ordinal));

    // In Oslo clocks go from 02:00 to 03:00 on 29 March 2026, and from 03:00 back to 02:00 on 25 October.
    [Theory]
    [InlineData("02:30", "2026-03-28T12:00:00Z", "2026-03-29T01:00:00Z")]
    [InlineData("06:30", "2026-03-28T12:00:00Z", "2026-03-29T04:30:00Z")]
    [InlineData("02:30", "2026-10-24T12:00:00Z", "2026-10-25T00:30:00Z")]
    [InlineData("06:30", "2026-10-24T12:00:00Z", "2026-10-25T05:30:00Z")]
    public void A_day_on_which_clocks_change_has_its_run_once(string at, string from, string next)
    {
        var schedule = Read($"schedule: {{ at: \"{at}\", zone: Europe/Oslo }}").Schedule!;
        var due = schedule.After(At(from))!.Value;
        due.ToUniversalTime().ShouldBe(At(next));
        (schedule.After(due)!.Value - due).ShouldBeGreaterThan(TimeSpan.FromHours(20), "not twice in a night");
    }

    [Fact]
    public void The_last_time_and_the_longest_pause_are_found()
    {
        var weekdays = Read("schedule: { at: \"06:30\", on: weekdays }").Schedule!;
        weekdays.UpTo(At("2026-03-02T06:29:00Z")).ShouldBe(At("2026-02-27T06:30:00Z"));
        weekdays.UpTo(At("2026-03-02T06:30:00Z")).ShouldBe(At("2026-03-02T06:30:00Z"));
        weekdays.LongestPause(At("2026-03-02T00:00:00Z")).ShouldBe(TimeSpan.FromDays(3));
        Read("schedule: { cron: \"0 0 29 2 *\" }").Schedule!.UpTo(At("2026-03-02T00:00:00Z")).ShouldBe(At("2024-02-29T00:00:00Z"));
    }

    [Fact]
    public void A_job_that_only_tells_of_others_needs_no_pull()
    {
        JobReader.Read(_folder.Write("watch.cursiva.yaml", "cursiva: 1\ndeliveries: { watch: { when: late, message: { address: env:HOOK } } }"), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch).Pulls.ShouldBeEmpty();
        Should.Throw<JobMistakesException>(() => JobReader.Read(_folder.Write("watch.cursiva.yaml", "cursiva: 1\ndeliveries: { watch: { when: failed, message: { address: env:HOOK } } }"), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch)).Mistakes[0].Found.ShouldBe("the job has no 'pulls'");
    }

    private Job Read(string text) => JobReader.Read(
        _folder.Write("job.cursiva.yaml", $"cursiva: 1\n{text}\napis: {{ x: {{ base: https://x.example }} }}\npulls: {{ p: {{ get: /, rows: \"\" }} }}"), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);

    private static DateTimeOffset At(string text) => DateTimeOffset.Parse(text, System.Globalization.CultureInfo.InvariantCulture);
}
