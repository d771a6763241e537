using Cursiva.Core.Files;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Operations;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.Operations;

/// <summary>How jobs stand, by what is recorded of their runs; and that each condition is told once, and once more when it is over.</summary>
public sealed class OverviewDeskTests : IAsyncDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly FakeTimeProvider _clock = new(new DateTimeOffset(2026, 3, 4, 8, 0, 0, TimeSpan.Zero));
    private readonly IState _state;
    private readonly StateFolder _stateFolder;

    public OverviewDeskTests()
    {
        _stateFolder = new StateFolder(_folder["state"]);
        Directory.CreateDirectory(_stateFolder.Root);
        _state = SqliteState.Open(_stateFolder.Database, _clock);
    }

    public async ValueTask DisposeAsync()
    {
        await _state.DisposeAsync();
        _folder.Dispose();
    }

    [Fact]
    public async Task A_job_whose_day_went_by_without_a_good_run_is_late()
    {
        Job("depots", "schedule: { at: \"06:30\", on: weekdays, late-after: 1h }");
        await RunAsync("depots", 1, daysAgo: 1);
        (await StandingAsync("depots")).State.ShouldBe("late");
        (await StandingAsync("depots")).Conditions.Single().Words.ShouldBe("no good run since it was due at Wed 2026-03-04 06:30 (UTC)");

        // A run that failed does not count, one that is done does.
        await RunAsync("depots", 2, daysAgo: 0, RunPhase.Stopped, (int)Outcome.ApiFailed);
        (await StandingAsync("depots")).Conditions.Select(condition => condition.Key).ShouldBe(["late", "failed"]);
        await RunAsync("depots", 2, daysAgo: 0);
        (await StandingAsync("depots")).Conditions.ShouldBeEmpty();
        (await StandingAsync("depots")).NextDue.ShouldBe(new DateTimeOffset(2026, 3, 5, 6, 30, 0, TimeSpan.Zero));
    }

    [Fact]
    public async Task Before_its_grace_is_over_a_job_is_not_late()
    {
        Job("depots", "schedule: { at: \"06:30\" }");
        await RunAsync("depots", 1, daysAgo: 1);
        _clock.SetUtcNow(new DateTimeOffset(2026, 3, 5, 8, 29, 0, TimeSpan.Zero));
        (await StandingAsync("depots")).Conditions.Count.ShouldBe(1, "of yesterday");
        await RunAsync("depots", 2, daysAgo: 1);
        (await StandingAsync("depots")).Conditions.ShouldBeEmpty();
        _clock.Advance(TimeSpan.FromMinutes(1));
        (await StandingAsync("depots")).State.ShouldBe("late");
    }

    // On 29 March 2026 clocks in Oslo go from 02:00 to 03:00: 02:30 is not there, and stands for 03:00.
    [Fact]
    public async Task A_deadline_holds_on_a_day_on_which_clocks_change()
    {
        Job("depots", "zone: Europe/Oslo\nexpected: daily by 02:30");
        _clock.SetUtcNow(new DateTimeOffset(2026, 3, 29, 0, 59, 0, TimeSpan.Zero));
        await RunAsync("depots", 1, daysAgo: 1);
        (await StandingAsync("depots")).Conditions.ShouldBeEmpty();
        _clock.Advance(TimeSpan.FromMinutes(1));
        (await StandingAsync("depots")).State.ShouldBe("late");
        await RunAsync("depots", 2, daysAgo: 0);
        (await StandingAsync("depots")).Conditions.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_file_that_never_ran_is_late_only_for_times_since_it_is_there()
    {
        var path = Job("depots", "schedule: { at: \"06:30\", late-after: 1h }");
        File.SetLastWriteTimeUtc(path, new DateTime(2026, 3, 4, 7, 0, 0, DateTimeKind.Utc));
        (await StandingAsync("depots", _folder.Path)).State.ShouldBe("never ran");
        File.SetLastWriteTimeUtc(path, new DateTime(2026, 3, 4, 6, 0, 0, DateTimeKind.Utc));
        (await StandingAsync("depots", _folder.Path)).State.ShouldBe("late");
    }

    [Theory]
    [InlineData(RunPhase.Stopped, (int)Outcome.SignInRefused, "failed", "failed")]
    [InlineData(RunPhase.Stopped, (int)Outcome.StoppedResumable, "stopped", "")]
    [InlineData(RunPhase.Stopped, (int)Outcome.Terminated, "stopped", "")]
    [InlineData(RunPhase.Running, null, "killed", "killed")]
    [InlineData(RunPhase.Done, (int)Outcome.Done, "done", "")]
    public async Task How_the_last_run_ended_is_told(RunPhase phase, int? code, string state, string condition)
    {
        Job("depots", "");
        await RunAsync("depots", 1, daysAgo: 0, phase, code);
        var standing = await StandingAsync("depots");
        standing.State.ShouldBe(state);
        string.Join(' ', standing.Conditions.Select(found => found.Key)).ShouldBe(condition);
        standing.Resumable.ShouldBe(phase != RunPhase.Done);
    }

    [Theory]
    [InlineData(1000, 10, "")]
    [InlineData(499, 10, "unusual-rows")]
    [InlineData(2001, 10, "unusual-rows")]
    [InlineData(501, 10, "")]
    [InlineData(1000, 69, "")]
    [InlineData(1000, 71, "unusual-time")]
    public async Task What_is_outside_the_last_twenty_good_runs_is_unusual(long rows, double tookS, string keys)
    {
        Job("depots", "");
        for (var run = 1; run <= 8; run++)
            await RunAsync("depots", run, daysAgo: 10 - run, rows: 1000, tookS: 10);
        await RunAsync("depots", 9, daysAgo: 0, rows: rows, tookS: tookS);
        string.Join(' ', (await StandingAsync("depots")).Conditions.Select(found => found.Key)).ShouldBe(keys);
    }

    [Fact]
    public async Task Requests_of_the_last_hour_and_day_are_added_up()
    {
        Job("depots", "");
        await RunAsync("depots", 1, daysAgo: 3);
        await RunAsync("depots", 2, daysAgo: 0);
        _clock.Advance(TimeSpan.FromHours(2));
        await RunAsync("depots", 3, daysAgo: 0);
        var standing = await StandingAsync("depots");
        (standing.RequestsInHour, standing.RequestsInDay).ShouldBe((7, 14));
        OverviewPage.Write(await LookAsync()).ShouldContain("14<p class=\"small\">7 in the last hour</p>");
    }

    [Fact]
    public async Task Few_runs_say_nothing_of_what_is_usual()
    {
        Usual.Of([1, 2, 3, 4]).ShouldBeNull();
        Usual.Of(Enumerable.Range(1, 30).Select(value => (double)value)).ShouldBe(new Usual(20.5, 11, 30));
        Job("depots", "");
        for (var run = 1; run <= 4; run++)
            await RunAsync("depots", run, daysAgo: 10 - run, rows: 1000);
        await RunAsync("depots", 5, daysAgo: 0, rows: 1);
        (await StandingAsync("depots")).Conditions.ShouldBeEmpty();
    }

    [Fact]
    public async Task What_ends_what_is_pending_and_what_is_broken_are_told()
    {
        Job("depots", "");
        await RunAsync("depots", 1, daysAgo: 0, expiries: [new Expiry("secret", "'app'", _clock.GetUtcNow().AddDays(12.5), "next"), new Expiry("certificate", "CN=x", _clock.GetUtcNow().AddDays(31), "next")]);
        var ledger = new LedgerBook(_state, "depots", _clock);
        await ledger.AddAsync(new LedgerEntry("mail-1", "mail", 1, "desk", "", ["a"], _clock.GetUtcNow()), CancellationToken.None);
        await ledger.MoveAsync(new LedgerEntry("table-1", "table", 1, "desk", "", ["a"], _clock.GetUtcNow()), LedgerPhase.InDoubt);
        var standing = await StandingAsync("depots");
        (standing.Pending, standing.InDoubt).ShouldBe((1, 1));
        standing.Conditions.Select(condition => condition.Words).ShouldBe([
            "1 delivery or write is in doubt: cursiva ledger JOB", "1 delivery or write has not been sent: cursiva deliver JOB", "the secret 'app' expires in 12 days, on 2026-03-16"]);

        _folder.Write("depots.cursiva.yaml", "cursiva: 1\nnonsense: 1");
        (await StandingAsync("depots")).Conditions[0].Words.ShouldStartWith("the job file has 2 mistakes: ");
        File.Delete(_folder["depots.cursiva.yaml"]);
        (await StandingAsync("depots")).State.ShouldBe("gone");
    }

    [Fact]
    public async Task A_run_that_goes_on_is_not_taken_for_killed_until_it_is_silent()
    {
        Job("depots", "schedule: { at: \"06:30\", late-after: 1h }");
        await RunAsync("depots", 1, daysAgo: 1);
        await RunAsync("depots", 2, daysAgo: 0, RunPhase.Running, null);
        var board = new PulseBoard(_state.Notes, "depots");
        await board.WriteAsync(new Pulse("depots", 2, 1, "here", _clock.GetUtcNow(), _clock.GetUtcNow(), "pulls", [new PulledSoFar("p", 7, 1, null, null, 0)], 1, 0, 0), CancellationToken.None);
        var standing = await StandingAsync("depots");
        (standing.State, standing.Running!.Pulls[0].Rows).ShouldBe(("running", 7));
        standing.Conditions.Single().Words.ShouldEndWith("; it is running now");
        _clock.Advance(TimeSpan.FromSeconds(16));
        (await StandingAsync("depots")).Conditions.Select(condition => condition.Key).ShouldBe(["late", "killed"]);
    }

    [Fact]
    public async Task Each_condition_is_told_once_and_once_more_when_it_is_over()
    {
        Job("depots", "schedule: { at: \"06:30\", late-after: 1h }");
        await RunAsync("depots", 1, daysAgo: 1);
        var desk = new AlarmDesk(_state, "watch");
        var alarm = (await desk.LookAsync(await LookAsync(), CancellationToken.None))!;
        alarm.Number.ShouldBe(1);
        alarm.Words.ShouldStartWith("depots: no good run since");

        // Until it is in the ledger, it is the same alarm.
        (await desk.LookAsync(await LookAsync(), CancellationToken.None))!.Number.ShouldBe(1);
        await desk.ToldAsync(alarm, CancellationToken.None);
        (await desk.LookAsync(await LookAsync(), CancellationToken.None)).ShouldBeNull();
        await RunAsync("depots", 2, daysAgo: 0);
        var over = (await desk.LookAsync(await LookAsync(), CancellationToken.None))!;
        (over.Number, over.Begun.Count).ShouldBe((2, 0));
        over.Words.ShouldStartWith("over: depots: no good run since");
        await desk.ToldAsync(over, CancellationToken.None);
        (await desk.LookAsync(await LookAsync(), CancellationToken.None)).ShouldBeNull();

        // Another teller hears it anew.
        _clock.Advance(TimeSpan.FromDays(1));
        (await new AlarmDesk(_state, "other").LookAsync(await LookAsync(), CancellationToken.None)).ShouldNotBeNull();
    }

    [Fact]
    public async Task History_is_found_by_time_and_made_of_older_records()
    {
        foreach (var (job, run, ago) in new[] { ("a", 1, 9), ("b", 1, 5), ("a", 2, 3), ("a", 3, 0) })
            await RunAsync(job, run, ago);
        var book = new HistoryBook(_state);
        (await book.SinceAsync(_clock.GetUtcNow().AddDays(-6), null, CancellationToken.None)).Select(line => $"{line.Job}{line.Run}").ShouldBe(["b1", "a2", "a3"]);
        (await book.SinceAsync(_clock.GetUtcNow().AddDays(-60), "a", CancellationToken.None)).Select(line => line.Run).ShouldBe([1, 2, 3]);

        // A state of the first format has no lines.
        foreach (var (key, _) in await _state.RangeAsync("history", "", "~", CancellationToken.None))
            await _state.DeleteAsync("history", key, CancellationToken.None);
        await _state.DeleteAsync("history-made", "1", CancellationToken.None);
        (await book.SinceAsync(_clock.GetUtcNow().AddDays(-60), null, CancellationToken.None)).Select(line => $"{line.Job}{line.Run}").ShouldBe(["a1", "b1", "a2", "a3"]);
    }

    private string Job(string name, string keys) =>
        _folder.Write($"{name}.cursiva.yaml", $"cursiva: 1\n{keys}\napis: {{ x: {{ base: https://x.example }} }}\npulls: {{ p: {{ get: /, rows: \"\" }} }}");

    private async Task RunAsync(string job, int number, int daysAgo, RunPhase phase = RunPhase.Done, int? code = 0, long rows = 10, double tookS = 5, IReadOnlyList<Expiry>? expiries = null)
    {
        await _state.WriteAsync("job", job, System.Text.Encoding.UTF8.GetBytes(_folder[$"{job}.cursiva.yaml"]), CancellationToken.None);
        var at = _clock.GetUtcNow().AddDays(-daysAgo).AddMinutes(-10);
        await new RunStore(_state, new JobFolder(_stateFolder, job)).WriteAsync(
            new RunRecord(number, at, "", 4) { Phase = phase, Outcome = code, EndedAt = phase == RunPhase.Running ? null : at.AddSeconds(tookS), Rows = new() { ["p"] = rows }, Took = TimeSpan.FromSeconds(tookS), Requests = 7, Expiries = expiries ?? [] }, CancellationToken.None);
    }

    private async Task<JobStanding> StandingAsync(string job, params string[] places) => (await LookAsync(places)).Jobs.Single(standing => standing.Job == job);

    private Task<JobsLook> LookAsync(params string[] places) => new OverviewDesk(_state, _stateFolder, _ => null, _clock).LookAsync(places, CancellationToken.None);
}
