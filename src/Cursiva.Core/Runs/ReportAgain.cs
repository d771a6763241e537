using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Runs;

/// <summary>Writes the reports of a run again, from its landed rows and without a request.</summary>
public sealed class ReportAgain(RunOptions options, IRunWatch watch)
{
    /// <param name="read">Reads the job with its relative times told from a given start, and with what a run was given.</param>
    /// <param name="number">The run; null for the newest whose rows are all landed.</param>
    /// <param name="into">A folder for the files, in place of the job's, which then stay as they are; null for the job's.</param>
    /// <returns>How it ended; refusals are in it and are not thrown.</returns>
    /// <exception cref="JobMistakesException">The job cannot be read.</exception>
    public async Task<RunSummary> ExecuteAsync(
        Func<DateTimeOffset, IReadOnlyDictionary<string, string>, Job> read, int? number, string? into, CancellationToken cancel)
    {
        var start = options.Clock.GetTimestamp();
        RunRecord? run = null;
        ReportStage? stage = null;
        RunSummary Summary(Outcome outcome, Refusal? refusal) => new(
            stage is null
                ? 0
                : run!.Number, outcome, refusal, [], 0, 0, TimeSpan.Zero, options.Clock.GetElapsedTime(start), stage?.Files ?? [], []);
        try
        {
            var job = read(options.Clock.GetUtcNow(), new Dictionary<string, string>());
            await using var scope = await RunScope.OpenAsync(job, options, cancel);
            var (runs, folder) = (scope.Runs, scope.Folder);
            if ((number ?? runs.Records.LastOrDefault(one => one.LandedAt is not null)?.Number) is { } wanted)
                await scope.Landings.BringForAsync(job, runs.Records, wanted, cancel);
            run = runs.Landed(number);
            job = read(run.StartedAt, run.Inputs);
            if (into is not null)
                job = job with { Out = Template.OfLiteral(into) };
            FileSet.Finish(options.Disk, folder.RenamesOf(run.Number));
            stage = new ReportStage(job, run, folder, options, watch);
            stage.CheckFolder();
            var history = new RunHistory(runs.Records, () => run, folder, options);
            await using var landing = new RunLanding(options.Disk, folder.LandingOf(run.Number), options.Clock);
            await using var deliveries = new DeliveryStage(job, scope, options, watch);
            var changes = into is null && BecomesDone(run, runs);
            var written = await Task.Run(
                () => stage.Write(
                    landing,
                    history,
                    extracts => changes ? deliveries.WriteAsync(run, extracts, cancel).GetAwaiter().GetResult() : deliveries.Written(run),
                    cancel),
                cancel);
            if (changes)
                await deliveries.EnterAsync(run, stage.OutFolder, written, null, cancel);
            if (into is null)
                await scope.Store.WriteAsync(
                    Finished(run, runs) with { Columns = written.Columns, Reports = written.Totals, FilesPer = written.FilesPer },
                    CancellationToken.None);
            var pending = changes ? await deliveries.SendAsync(cancel) : null;
            return Summary(pending?.Outcome ?? Outcome.Done, pending) with { Deliveries = deliveries.Handled };
        }
        catch (RefusedException error)
        {
            return Summary(error.Refusal.Outcome, error.Refusal);
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            return Summary(
                Outcome.Interrupted, new Refusal(Outcome.Interrupted, "stopped on request; unfinished reports are unchanged"));
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException or SqliteException)
        {
            var refusal = options.State.Refuse(error);
            return Summary(refusal.Outcome, refusal);
        }
    }

    // A run that lacked nothing but its reports is a good one now.
    private static bool BecomesDone(RunRecord run, JobRuns runs) => run.Phase == RunPhase.Stopped && run == runs.Records[^1];

    private RunRecord Finished(RunRecord run, JobRuns runs) =>
        BecomesDone(run, runs)
            ? run with { Phase = RunPhase.Done, Outcome = (int)Outcome.Done, Note = null, EndedAt = options.Clock.GetUtcNow() }
            : run;
}
