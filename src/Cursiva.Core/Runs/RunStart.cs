using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Runs;

/// <summary>What a start is about: a new run, or one that is resumed.</summary>
/// <param name="Job">The job, with its relative times told from the start of the run.</param>
/// <param name="Run">The record of the run as it begins; it is not written yet.</param>
internal sealed record RunStart(Job Job, RunRecord Run, StartDecision Decision)
{
    /// <summary>Decides what a start is about. A run that is not resumed is set aside.</summary>
    /// <param name="read">Reads the job with its relative times told from a given start.</param>
    /// <exception cref="RefusedException">Nothing can be resumed, and that was asked for.</exception>
    public static async Task<RunStart> DecideAsync(
        Job job, Func<DateTimeOffset, Job> read, RunScope scope, RunOptions options, CancellationToken cancel)
    {
        var now = options.Began ?? options.Clock.GetUtcNow();
        var last = scope.Runs.Records.Count > 0 ? scope.Runs.Records[^1] : null;
        if (last is { IsFinished: false })
            FileSet.Finish(options.Disk, scope.Folder.RenamesOf(last.Number));

        var then = last is { IsFinished: false } ? read(last.StartedAt) : job;
        if (options.OnlyRun is { } only && (last?.Number != only || last.IsOver))
            throw new RefusedException(new Refusal(Outcome.AlreadyRunning, $"run {only} is over"));
        var decision = StartDecision.Decide(options.Choice, last, job, then, now);
        if (!decision.Possible)
        {
            throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"there is nothing to resume: {decision.Reason}")
            {
                NextStep = "run without --resume to begin a new run",
            });
        }

        if (decision.GoOn is null && last is { IsFinished: false })
            await scope.Store.WriteAsync(last with { Phase = RunPhase.SetAside }, cancel);
        if (decision.GoOn is not null)
            job = then;
        var run = decision.GoOn is { } stopped
            ? stopped with { Phase = RunPhase.Running, EndedAt = null, Outcome = null, Note = null, Starts = stopped.Starts + 1 }
            : new RunRecord((last?.Number ?? 0) + 1, now, job.Period, RunLanding.Format) { Full = options.Full };
        run = run with
        {
            Together = options.Together,
            StopAsked = false,
            PullPrints = new(job.PullPrints),
            Inputs = job.Inputs.Where(input => !input.Drifts).ToDictionary(input => input.Name, input => input.Value),
        };
        if (decision.GoOn is not null && job.Pulls.Any(pull => !decision.Kept.Contains(pull.Name)))
            run = run with { LandedAt = null, Warnings = [] };
        return new RunStart(job, run, decision);
    }
}
