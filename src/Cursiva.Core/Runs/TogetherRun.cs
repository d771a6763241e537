using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// A run that any number of machines work on. The first begins it; every machine fetches strands; one of them at a time holds the job's
/// lease,
/// hands strands out, and writes the reports. When that one leaves or dies, another one goes on in its place.
/// </summary>
public sealed class TogetherRun(RunOptions options, IRunWatch watch)
{
    private static readonly TimeSpan s_between = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan s_look = TimeSpan.FromMilliseconds(200);

    // A start this soon after a run was done was meant to join it: timers of several machines do not fire at the same moment.
    private static readonly TimeSpan s_late = TimeSpan.FromMinutes(1);

    private readonly RunOptions _options = options with { Engine = options.Engine.ForTogether() };
    private readonly RunCounters _counters = new(watch, options.Clock);
    private readonly long _start = options.Clock.GetTimestamp();
    private long _strands;
    private long _pages;

    /// <summary>Works on the run until it is over, or this machine is stopped.</summary>
    /// <param name="job">The job as read now.</param>
    /// <param name="read">Reads the job with its relative times told from a given start.</param>
    /// <returns>How the run ended; refusals are in it and are not thrown.</returns>
    /// <exception cref="JobMistakesException">The job cannot be read.</exception>
    public async Task<RunSummary> ExecuteAsync(Job job, Func<DateTimeOffset, Job> read, CancellationToken cancel)
    {
        var left = _options.Deadline is { } end ? end - _options.Clock.GetUtcNow() : Timeout.InfiniteTimeSpan;
        using var deadline = new CancellationTokenSource(Http.Waits.Timer(left), _options.Clock);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(cancel, deadline.Token);
        return await ExecuteAsync(job, read, () => deadline.IsCancellationRequested && !cancel.IsCancellationRequested, either.Token);
    }

    private async Task<RunSummary> ExecuteAsync(Job job, Func<DateTimeOffset, Job> read, Func<bool> isLate, CancellationToken cancel)
    {
        try
        {
            await using var state = await _options.Engine.OpenAsync(cancel);
            _ = state.Queue;
            var store = new RunStore(state, new JobFolder(_options.State, job));
            if (await NewestAsync(store, cancel) is { Together: true, Phase: RunPhase.Done } done && _options.Choice == StartChoice.Either
                && state.Clock.GetUtcNow() - done.EndedAt < s_late)
                return Over(done);
            var began = state.Clock.GetUtcNow();
            using var over = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            var work = Task.Run(() => WorkAsync(job.Name, read, state, store, over.Token), CancellationToken.None);
            RunSummary summary;
            try
            {
                summary = await LeadAsync(job, read, state, store, work, began, cancel);
            }
            finally
            {
                await over.CancelAsync();
                await work.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }

            if (summary is { StrandsHere: null, Outcome: Outcome.Done })
            {
                var folder = new JobFolder(_options.State, job);
                await state.Landings.ReleaseAsync(folder.NameOf(folder.LandingOf(summary.Run)), cancel);
            }

            // What this machine has fetched is known once it has stopped.
            return summary.StrandsHere is null ? summary : summary with
            {
                Requests = _counters.Requests,
                StrandsHere = _strands,
                PagesHere = _pages,
            };
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            var outcome = isLate() ? Outcome.StoppedResumable : _options.StoppedBy();
            return Summary(
                0,
                new Refusal(
                    outcome,
                    $"this machine was stopped {(isLate() ? "at its deadline" : "as asked")}; the other machines continue the run"));
        }
        catch (RefusedException error)
        {
            return Summary(0, error.Refusal);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            return Summary(0, _options.State.Refuse(error));
        }
    }

    // Tries again and again to hold the lease, until the run is over.
    private async Task<RunSummary> LeadAsync(
        Job job, Func<DateTimeOffset, Job> read, IState state, RunStore store, Task work, DateTimeOffset began, CancellationToken cancel)
    {
        int? joined = null;
        int? told = null;
        while (true)
        {
            var newest = await NewestAsync(store, cancel);

            // One that ended after this machine was started is the one that was meant.
            if (joined is null
                && _options.Choice == StartChoice.Either
                && newest is { Together: true, IsOver: true }
                && newest.EndedAt >= began)
                joined = newest.Number;
            if (joined is { } number
                && (newest!.Number == number ? newest : await FindAsync(store, number, cancel)) is { IsOver: true } run)
            {
                // One that was set aside has a successor.
                if (run.Phase != RunPhase.SetAside || newest is not { Together: true, Phase: RunPhase.Running })
                    return Over(run);
            }

            // Before the lease is tried: between the two the run may end, and this machine is to begin no other one.
            if (newest is { Together: true }
                && (newest.Phase == RunPhase.Running || (!newest.IsOver && _options.Choice != StartChoice.New)))
                joined = newest.Number;
            if (joined is null || await IsFreeAsync(state, new JobFolder(_options.State, job).Lease, cancel))
            {
                var summary = await JobAsync(job, read, joined, work, cancel);
                var taken = summary.Outcome == Outcome.AlreadyRunning;
                if (!taken
                    && !(summary.Outcome == Outcome.StoppedResumable && await NewestAsync(store, cancel) is { Phase: RunPhase.Running }))
                    return summary;

                // Another one holds it: this machine fetches what it hands out.
                newest = await NewestAsync(store, cancel);
                if (joined is null && newest is { Together: false, Phase: RunPhase.Running })
                    return summary;
                if (joined is null && newest is { Together: true } && (newest.Phase == RunPhase.Running || newest.EndedAt >= began))
                    joined = newest.Number;
            }

            if (joined is not null && joined != told)
            {
                told = joined;
                watch.Doing($"working on run {joined} with the machine that began it");
            }

            var waited = await Task.WhenAny(work, Task.Delay(s_between, _options.Clock, cancel));
            if (waited == work)
                await work;
            cancel.ThrowIfCancellationRequested();
        }
    }

    private async Task<bool> IsFreeAsync(IState state, string lease, CancellationToken cancel)
    {
        if ((await state.Leases.TryTakeAsync(lease, _options.Holder, null, cancel)).Lease is not { } free)
            return false;
        await free.DisposeAsync();
        return true;
    }

    // A machine that cannot fetch does not hold the run up: another one has it then.
    private async Task<RunSummary> JobAsync(Job job, Func<DateTimeOffset, Job> read, int? only, Task work, CancellationToken cancel)
    {
        using var failed = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var choice = only is null ? _options.Choice : StartChoice.Either;
        var run = new JobRun(_options with { Together = true, OnlyRun = only, Choice = choice }, watch).ExecuteAsync(
            job, read, failed.Token);
        if (await Task.WhenAny(run, work) == work)
            await failed.CancelAsync();
        try
        {
            var summary = await run;
            return work.IsFaulted ? await RethrownAsync(work) : summary;
        }
        catch (OperationCanceledException) when (work.IsFaulted)
        {
            return await RethrownAsync(work);
        }
    }

    private static async Task<RunSummary> RethrownAsync(Task failed)
    {
        await failed;
        throw new InvalidOperationException("it has not failed");
    }

    // Whatever run is under way: strands of it are fetched here.
    private async Task WorkAsync(string name, Func<DateTimeOffset, Job> read, IState state, RunStore store, CancellationToken cancel)
    {
        while (true)
        {
            if (await NewestAsync(store, cancel) is { Together: true, Phase: RunPhase.Running } run)
                await WorkAsync(name, run, read(run.StartedAt), state, store, cancel);
            await Task.Delay(s_look, _options.Clock, cancel);
        }
    }

    private async Task WorkAsync(string name, RunRecord run, Job job, IState state, RunStore store, CancellationToken cancel)
    {
        RequireSame(job, run);
        var here = _options with { Clock = state.Clock };
        var folder = new JobFolder(here.State, job);
        var environment = EnvironmentFile.Over(here.Environment, job.EnvFile, watch.Warned);
        await SharedKey.CheckAsync(here.State, here.Disk, environment, state, cancel);
        var services = SignInServices.Of(
            state, here.State, here.Disk, here.Redactor, environment, job.Folder, here.Clock, here.Random, _counters, _counters) with
        { Budget = new Http.Budget(here.MaxRequests, null, here.Clock) };
        services = here.Through?.Invoke(services) ?? services;
        using var senders = services.Senders;
        senders.Trace = here.Trace;
        using var signIns = new SignIns(services);
        await using var clients = new ApiClients(job, signIns, services);
        var records = await store.ListAsync(cancel);
        var history = new RunHistory(records, () => run, folder, here);
        await new SharedLandings(state, folder, here.Disk).BringBeforeAsync(job, records, run.Number, cancel);
        var reports = new ReportStage(job, run, folder, here, watch);

        // Another process of this machine may work on the run in the same state folder.
        var place = Path.Combine(folder.Of(run.Number), $"fetched-here-{Guid.NewGuid():n}");
        using var worker = new StrandWorker(
            job,
            here,
            state,
            folder.NameOf(folder.LandingOf(run.Number)),
            place,
            (landing, warn) => new PullStage(job, here, folder, run, reports.OutFolder, watch, _counters).ServicesOf(
                landing, clients, services, history, (_, _) => Task.CompletedTask) with
            { Warn = warn },
            () => _counters.Requests);
        using var over = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var work = worker.WorkAsync(over.Token);
        try
        {
            while (await NewestAsync(store, cancel) is { IsOver: false } newest && newest.Number == run.Number)
            {
                if (await Task.WhenAny(work, Task.Delay(s_look, here.Clock, cancel)) == work)
                    await work;
            }
        }
        finally
        {
            await over.CancelAsync();
            await work.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            _strands += worker.Strands;
            _pages += worker.Pages;
            here.Disk.DeleteFolder(place);
        }
    }

    private static void RequireSame(Job job, RunRecord run)
    {
        var other = job.PullPrints.FirstOrDefault(pull => run.PullPrints.GetValueOrDefault(pull.Key) != pull.Value).Key;
        if (other is null && job.PullPrints.Count == run.PullPrints.Count)
            return;
        throw new RefusedException(new Refusal(
            Outcome.JobFileWrong,
            $"pull '{other ?? run.PullPrints.Keys.First(pull => !job.PullPrints.ContainsKey(pull))}' differs from the one on the machine that began run {run.Number}")
        {
            Cause = "the job file, a file that it includes, or an input differs between the machines",
            NextStep = "give every machine the same job file and the same inputs",
        });
    }

    private static async Task<RunRecord?> NewestAsync(RunStore store, CancellationToken cancel) =>
        await store.NewestAsync(1, cancel) is [var newest] ? newest : null;

    private static async Task<RunRecord> FindAsync(RunStore store, int number, CancellationToken cancel) =>
        (await store.ListAsync(cancel)).First(run => run.Number == number);

    private RunSummary Over(RunRecord run)
    {
        var outcome = (Outcome?)run.Outcome ?? Outcome.Done;
        return Summary(
            run.Number,
            outcome == Outcome.Done ? null : new Refusal(outcome, $"on the machine that held it, run {run.Number} ended: {run.Note}")) with
        {
            Ends = run.Ends,
        };
    }

    private RunSummary Summary(int run, Refusal? refusal) => new(
        run, refusal?.Outcome
            ?? Outcome.Done, refusal, [], _counters.Requests, _counters.Retries, _counters.Waited, _options.Clock.GetElapsedTime(
                _start), [], [])
    {
        StrandsHere = _strands,
        PagesHere = _pages,
    };
}
