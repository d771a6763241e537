using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.Runs;

/// <summary>A machine that works on a run with others resumes that one alone, and only while it is not over.</summary>
public sealed class OnlyRunTests
{
    [Theory]
    [InlineData(RunPhase.Stopped, Outcome.Terminated, true, false)]
    [InlineData(RunPhase.Stopped, Outcome.ApiFailed, false, false)]
    [InlineData(RunPhase.Done, Outcome.Done, false, false)]
    [InlineData(RunPhase.Stopped, Outcome.Terminated, false, true)]
    [InlineData(RunPhase.Running, Outcome.Done, false, true)]
    public async Task A_run_that_is_over_for_all_machines_is_not_resumed_by_one_that_worked_on_it(RunPhase phase, Outcome outcome, bool stopAsked, bool isResumed)
    {
        using var folder = new TemporaryFolder();
        var path = folder.Write("job.cursiva.yaml", "cursiva: 1\napis: { x: { base: 'http://127.0.0.1:1', attempts: 1 } }\npulls: { p: { get: /p, rows: /rows } }\n");
        Job Read(DateTimeOffset now) => JobReader.Read(path, new GivenInputs([], [], _ => null), now);
        var (job, state) = (Read(DateTimeOffset.UtcNow), new StateFolder(folder["state"]));
        var engine = new SqliteEngine(state, new Disk(), TimeProvider.System);
        await using (var open = await engine.OpenAsync(default))
        {
            await new RunStore(open, new JobFolder(state, job)).WriteAsync(
                new RunRecord(1, DateTimeOffset.UtcNow, job.Period, RunLanding.Format)
                {
                    Together = true,
                    Phase = phase,
                    Outcome = phase == RunPhase.Running ? null : (int)outcome,
                    StopAsked = stopAsked,
                    PullPrints = new(job.PullPrints),
                },
                default);
        }

        var options = new RunOptions(StartChoice.Either, state, engine, new Disk(), TimeProvider.System, new Redactor(), _ => null, "here") { OnlyRun = 1 };
        var summary = await new JobRun(options, new SilentRun()).ExecuteAsync(job, Read, default);
        (summary.Outcome == Outcome.AlreadyRunning, summary.Refusal!.What == "run 1 is over").ShouldBe((!isResumed, !isResumed), summary.Refusal.What);
    }
}
