using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Runs;

/// <summary>One execution of a job, from its start to its end.</summary>
public sealed class JobRun
{
    private RunOptions _options;
    private readonly IRunWatch _watch;
    private readonly RunCounters _counters;
    private readonly long _start;
    private PullStage? _pulls;
    private ReportStage? _reports;
    private IReadOnlyList<LedgerEntry> _delivered = [];
    private ReportsWritten _written = ReportsWritten.None;
    private readonly StageClock _stages;
    private IReadOnlyList<Expiry> _expiries = [];
    private RunFigures _figures = RunFigures.None;
    private RunRecord? _run;
    private int _number;
    private bool _stopAsked;

    /// <summary>A run that has not begun.</summary>
    public JobRun(RunOptions options, IRunWatch watch)
    {
        _options = options;
        _watch = watch;
        _counters = new RunCounters(watch, options.Clock);
        _stages = new StageClock(options.Clock);
        _start = options.Clock.GetTimestamp();
    }

    /// <summary>Runs the job, or resumes a run that was stopped.</summary>
    /// <param name="job">The job as read now.</param>
    /// <param name="read">Reads the job with its relative times told from a given start.</param>
    /// <returns>How it ended; refusals are in it and are not thrown.</returns>
    /// <exception cref="JobMistakesException">The job cannot be read.</exception>
    public async Task<RunSummary> ExecuteAsync(Job job, Func<DateTimeOffset, Job> read, CancellationToken cancel)
    {
        try
        {
            await using var scope = await RunScope.OpenAsync(job, _options, cancel);
            var clock = scope.State.Clock;
            _options = _options with { Clock = clock, Deadline = _options.Deadline + (clock.GetUtcNow() - _options.Clock.GetUtcNow()) };
            return await BeginAsync(job, read, scope, cancel);
        }
        catch (RefusedException error)
        {
            return Summary(error.Refusal.Outcome, error.Refusal);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException or SqliteException)
        {
            var refusal = _options.State.Refuse(error);
            return Summary(refusal.Outcome, refusal);
        }
    }

    private async Task<RunSummary> BeginAsync(Job job, Func<DateTimeOffset, Job> read, RunScope scope, CancellationToken cancel)
    {
        (job, var run, var decision) = await RunStart.DecideAsync(job, read, scope, _options, cancel);
        _number = run.Number;
        await scope.Store.WriteAsync(run, cancel);
        _options.Noted?.Invoke(new RunNotes(job.Name, run.Number, run.StartedAt, decision.GoOn is not null, run.Inputs, scope.Runs.Records.LastOrDefault(earlier => earlier.Phase == RunPhase.Done) is { } good && !run.Full ? good.Marks : []));
        _watch.Began(run.Number, decision.GoOn is not null, decision.Reason);
        if (!_options.CanBeWatched)
            return await RecordedAsync(job, run, scope, decision, _options.StoppedBy, cancel);
        await using var pulse = new RunPulse(new PulseBoard(scope.State.Notes, job.Name), run.Number, () => Pulse(job, run), _options.Clock);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancel, pulse.Stop);
        return await RecordedAsync(job, run, scope, decision, StoppedBy, either.Token);

        Outcome StoppedBy()
        {
            _stopAsked = pulse.Stop.IsCancellationRequested;
            return _stopAsked ? Outcome.Terminated : _options.StoppedBy();
        }
    }

    private Pulse Pulse(Job job, RunRecord run) => new(
        job.Name, run.Number, Environment.ProcessId, Environment.MachineName, run.StartedAt, _options.Clock.GetUtcNow(), _stages.Now,
        [.. _pulls?.Progress.Select(pull => new PulledSoFar(pull.Pull, pull.Rows, pull.Pages, pull.Total, pull.Repeats ? pull.StrandsEnded : null, pull.Skips)) ?? []],
        _counters.Requests, _counters.Retries, Math.Round(_counters.Waited.TotalSeconds, 1));

    private async Task<RunSummary> RecordedAsync(Job job, RunRecord run, RunScope scope, StartDecision decision, Func<Outcome> stoppedBy, CancellationToken cancel)
    {
        // One budget for what is fetched and for what is written.
        var budget = new Budget(_options.MaxRequests, _options.Deadline, _options.Clock);
        await using var deliveries = new DeliveryStage(job, scope, _options, _watch, _counters, budget);
        var outcome = Outcome.Done;
        Refusal? refusal = null;
        _run = run;
        var left = _options.Deadline is { } end ? end - _options.Clock.GetUtcNow() : Timeout.InfiniteTimeSpan;
        using var deadline = new CancellationTokenSource(Waits.Timer(left), _options.Clock);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancel, deadline.Token, scope.Lease.Lost);
        var causes = new StopCause(stoppedBy, scope.Lease, _options.State, deadline.Token, cancel);
        try
        {
            await deliveries.SendPendingAsync(either.Token);
            await WorkAsync(job, run, scope, decision, deliveries, budget, either.Token);

            // Before the run counts as done: from then on nothing would know what it had to deliver.
            await deliveries.EnterAsync(_run, _reports!.OutFolder, _written, null, either.Token);
        }
        catch (Exception error) when (causes.Knows(error))
        {
            refusal = causes.Of(error);
            outcome = refusal.Outcome;
        }
        catch (Exception error)
        {
            await scope.Store.WriteAsync(_run with { Phase = RunPhase.Stopped, EndedAt = _options.Clock.GetUtcNow(), Outcome = (int)Outcome.InternalError, Note = _options.Redactor.CleanLine($"{error.GetType().Name}: {error.Message}") }, CancellationToken.None);
            throw;
        }

        var ended = _run with
        {
            Phase = outcome == Outcome.Done ? RunPhase.Done : RunPhase.Stopped,
            EndedAt = _options.Clock.GetUtcNow(),
            Outcome = (int)outcome,
            Note = refusal is null ? null : _options.Redactor.CleanLine(refusal.What),
            Rows = _pulls?.Progress.ToDictionary(pull => pull.Pull, pull => pull.Rows) ?? [],
            Ends = _pulls?.Ends ?? [],
            Skips = _pulls?.Skips ?? [],
            Skipped = _pulls?.Reasons.Sum(reason => reason.Strands) ?? 0,
            Requests = run.Requests + _counters.Requests,
            Took = run.Took + _options.Clock.GetElapsedTime(_start),
            Expiries = _expiries,
            StopAsked = _stopAsked,
        };
        if (await UnrecordedAsync(scope, ended) is { } unrecorded)
            return Summary((refusal ?? unrecorded).Outcome, refusal ?? unrecorded);
        if (outcome is Outcome.InternalError or Outcome.SignInRefused or Outcome.ApiFailed or Outcome.TooManySkips or Outcome.ReportFailed)
            await TellFailureAsync(deliveries, ended, refusal!, cancel);
        else if (outcome == Outcome.Done && await _stages.MeasureAsync("deliveries", () => DeliverAsync(deliveries, cancel)) is { } pending)
            (outcome, refusal) = (pending.Outcome, pending);
        _delivered = deliveries.Handled;
        _figures = await new StartFigures(_counters, _stages).OfAsync(job, run, scope, _reports?.Files ?? [], _delivered);
        ended = ended with { Figures = _figures };
        if (await UnrecordedAsync(scope, ended) is { } late)
            return Summary(late.Outcome, late);
        if (ended.Phase == RunPhase.Done)
            await PruneAsync(job, scope, [.. scope.Runs.Records.Where(other => other.Number != ended.Number), ended]);
        if (outcome == Outcome.Done && job.Skips == SkipsEnd.ExitCode && _pulls?.Reasons is { Count: > 0 } skips)
            (outcome, refusal) = (Outcome.TooManySkips, PullStage.TooMany(skips, "the reports are written").Refusal);
        return Summary(outcome, refusal);
    }

    // Where the record cannot be written any more, the run counts as one that was cut short, which is resumed.
    private async Task<Refusal?> UnrecordedAsync(RunScope scope, RunRecord ended)
    {
        try
        {
            await scope.Store.WriteAsync(ended, CancellationToken.None);
            return null;
        }
        catch (Exception error) when (error is StateAwayException or LeaseLostException)
        {
            return _options.State.Refuse(error);
        }
    }

    // Whatever stands in the way of a delivery, the run is done.
    private static async Task<Refusal?> DeliverAsync(DeliveryStage deliveries, CancellationToken cancel)
    {
        try
        {
            return await deliveries.SendAsync(cancel);
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            return new Refusal(Outcome.DeliveryFailed, "stopped on request before everything was delivered; the run itself is done") { NextStep = "cursiva deliver JOB sends the rest" };
        }
    }

    private async Task TellFailureAsync(DeliveryStage deliveries, RunRecord run, Refusal refusal, CancellationToken cancel)
    {
        try
        {
            await deliveries.EnterAsync(run, "", ReportsWritten.None, refusal, cancel);
            if (await DeliverAsync(deliveries, cancel) is { } pending)
                _watch.Warned(pending.What);
        }
        catch (Exception error) when (error is RefusedException or OperationCanceledException or SqliteException)
        {
            // How the run ended matters more.
            _watch.Warned($"no notice could be sent: {error.Message}");
        }
    }

    // What a good run leaves is good, even if something old cannot be removed.
    private async Task PruneAsync(Job job, RunScope scope, IReadOnlyList<RunRecord> runs)
    {
        try
        {
            await new RunPruner(job, scope.Folder, _options).PruneAsync(runs, job.Keep, scope.Landings, CancellationToken.None);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            _watch.Warned($"an old landing could not be removed: {error.Message}");
        }
    }

    private async Task WorkAsync(Job job, RunRecord run, RunScope scope, StartDecision decision, DeliveryStage deliveries, Budget budget, CancellationToken cancel)
    {
        var reports = new ReportStage(job, run, scope.Folder, _options, _watch);
        reports.CheckFolder();
        var services = SignInServices.Of(
            scope.State, _options.State, _options.Disk, _options.Redactor, EnvironmentFile.Over(_options.Environment, job.EnvFile, _watch.Warned), job.Folder, _options.Clock, _options.Random, _counters, _counters)
            with
        { Budget = budget };
        services = _options.Through?.Invoke(services) ?? services;
        using var senders = services.Senders;
        senders.Trace = _options.Trace;
        if (services.Rehearsed is null)
            _expiries = await new Expiries(services).OfAsync(job, cancel);
        using var signIns = new SignIns(services);
        await using var clients = new ApiClients(job, signIns, services);
        await clients.PrepareAsync(cancel);
        var place = scope.Folder.LandingOf(run.Number);
        _pulls = new PullStage(job, _options, scope.Folder, run, reports.OutFolder, _watch, _counters);
        await using var hands = _options.Together ? new SharedHands(scope.State, scope.Folder.NameOf(place), _options.Clock, _pulls.Warned, _counters.CountElsewhere) : null;

        // From then on no machine adds to what is brought here.
        if (hands is not null)
            await hands.BeginAsync(job, cancel);
        await scope.Landings.BringForAsync(job, scope.Runs.Records, run.Number, cancel);
        await using var landing = new RunLanding(_options.Disk, place, _options.Clock, shared: scope.Landings.Of(place));
        if (decision.GoOn is not null)
            await landing.KeepOnlyAsync(decision.Kept, cancel);
        if (decision.GoOn?.Outcome == (int)Outcome.TooManySkips)
            await landing.ForgetSkipsAsync(cancel);

        var history = new RunHistory(scope.Runs.Records, () => _run!, scope.Folder, _options);
        await using var fold = new FoldUnderWay(new ChainFold(job, scope.Runs.Records, scope.Folder, _options, scope.Landings));
        await _stages.MeasureAsync("pulls", () => _pulls.RunAsync(landing, clients, services, history, AnewAsync, hands, cancel));

        // Told once: a report that is written later says the same.
        _run = _run! with { LandedAt = run.LandedAt ?? _options.Clock.GetUtcNow(), Warnings = [.. _pulls.Warnings, .. EndSoon], Marks = _pulls.Marks(landing, history.Marks) };
        _reports = new ReportStage(job, _run, scope.Folder, _options, _watch);

        // SQL and files keep a thread busy for long; whoever draws the progress has another.
        _written = await _stages.MeasureAsync("reports", () => Task.Run(() => _reports.Write(landing, history, extracts => deliveries.WriteAsync(_run, extracts, cancel).GetAwaiter().GetResult(), cancel), cancel));
        _run = _run with { Columns = _written.Columns, Reports = _written.Totals, FilesPer = _written.FilesPer };
        foreach (var folded in await fold.EndAsync(_watch.Warned, cancel))
            await scope.RewriteAsync(folded, cancel);

        Task AnewAsync(Pull pull, string strand)
        {
            _run = _run!.WithAnew(pull.Name, strand);
            return scope.Store.WriteAsync(_run, CancellationToken.None);
        }
    }

    private IEnumerable<string> EndSoon => _expiries.Where(expiry => expiry.IsSoon(_options.Clock.GetUtcNow())).Select(expiry => $"{expiry.Words(_options.Clock.GetUtcNow())}: {expiry.NextStep}");

    private RunSummary Summary(Outcome outcome, Refusal? refusal) => new(
        _number,
        outcome,
        refusal,
        [.. _pulls?.Progress.Select(pull => new PullCount(pull.Pull, pull.Rows, pull.Pages, pull.RowsBefore) { Strands = pull.Repeats ? pull.StrandsEnded : 0, Skips = pull.Skips }) ?? []],
        _counters.Requests,
        _counters.Retries,
        _counters.Waited,
        _options.Clock.GetElapsedTime(_start),
        _reports?.Files ?? [],
        _pulls?.Skips ?? [])
    {
        Statuses = _counters.Statuses,
        Skipped = _pulls?.Reasons.Sum(reason => reason.Strands) ?? 0,
        Ends = _pulls?.Ends ?? [],
        Warnings = [.. _pulls?.Warnings ?? [], .. EndSoon],
        Expiries = _expiries,
        StagesS = _stages.Seconds,
        LandedBytes = _figures.LandedBytes,
        Deliveries = _delivered,
    };
}
