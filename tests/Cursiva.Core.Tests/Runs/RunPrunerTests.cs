using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.Runs;

/// <summary>Which landings stay.</summary>
public sealed class RunPrunerTests : IDisposable
{
    private static readonly DateTimeOffset s_now = new(2026, 11, 25, 2, 0, 0, TimeSpan.Zero);
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void The_last_good_runs_stay_by_count() =>
        Left("retain: 2", [Good(1, 9), Good(2, 8), Stopped(3, 7), Good(4, 6), SetAside(5, 5), Good(6, 4)]).ShouldBe([4, 6]);

    [Fact]
    public void Good_runs_stay_by_age_and_the_last_one_however_old()
    {
        Left("retain: 7d", [Good(1, 9), Good(2, 6), Good(3, 1)]).ShouldBe([2, 3]);
        Left("retain: 7d", [Good(1, 30), Good(2, 20)]).ShouldBe([2]);
    }

    [Fact]
    public void A_stopped_run_that_may_be_gone_on_with_stays() =>
        Left("retain: 1", [Good(1, 3), Good(2, 2), Stopped(3, 1)]).ShouldBe([2, 3]);

    [Fact]
    public void What_an_incremental_pull_is_made_of_stays_from_the_last_full_run_on()
    {
        RunRecord Marked(int number, int daysAgo, bool full = false) => Good(number, daysAgo) with { Full = full, Marks = new() { ["p"] = [] } };
        Left("retain: 1", [Marked(1, 9), Marked(2, 8), Marked(3, 7)], incremental: true).ShouldBe([1, 2, 3]);
        Left("retain: 1", [Marked(1, 9), Marked(2, 8, full: true), Marked(3, 7)], incremental: true).ShouldBe([2, 3]);
    }

    private List<int> Left(string keep, IReadOnlyList<RunRecord> runs, bool incremental = false)
    {
        _folder.Write("job.cursiva.yaml", $"cursiva: 1\n{keep}\napis: {{ x: {{ base: https://x.example }} }}\npulls: {{ p: {{ get: /, rows: '', key: /id{(incremental ? ", query: { since: '{mark}' }, incremental: { by: /at }" : "")} }} }}\n");
        var job = JobReader.Read(_folder["job.cursiva.yaml"], new GivenInputs([], [], _ => null), s_now);
        var state = StateFolder.Find(_folder[Guid.NewGuid().ToString("N")], _ => null);
        var folder = new JobFolder(state, job);
        foreach (var run in runs)
            Directory.CreateDirectory(folder.LandingOf(run.Number));
        var options = new RunOptions(StartChoice.Either, state, new SqliteEngine(state, new Disk(), TimeProvider.System), new Disk(), new FakeTimeProvider(s_now), new Redactor(), _ => null, "a test");
        var removed = new RunPruner(job, folder, options).Prune(runs, job.Keep);
        List<int> left = [.. runs.Select(run => run.Number).Where(number => Directory.Exists(folder.Of(number)))];
        removed.ShouldBe(runs.Select(run => run.Number).Except(left));
        return left;
    }

    private static RunRecord Good(int number, int daysAgo) => new(number, s_now.AddDays(-daysAgo), "f", RunLanding.Format) { Phase = RunPhase.Done };

    private static RunRecord Stopped(int number, int daysAgo) => Good(number, daysAgo) with { Phase = RunPhase.Stopped };

    private static RunRecord SetAside(int number, int daysAgo) => Good(number, daysAgo) with { Phase = RunPhase.SetAside };
}
