using System.CommandLine;
using System.Text;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Checks;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Operations;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva run JOB</c>.</summary>
internal sealed class RunCommand(Shutdown shutdown)
{
    private const int MostShown = 3;

    private readonly CommonOptions _common = new();
    private readonly Option<bool> _new = new("--new") { Description = "start over with a new run, even if a run was stopped" };
    private readonly Option<bool> _resume = new("--resume") { Description = "resume the stopped run, however old, or fail" };

    private readonly Option<TimeSpan?> _deadline = new("--deadline")
    {
        Description = "the longest this start may take, such as 2h; the next start resumes the run",
        CustomParser = result =>
        {
            if (Durations.TryParse(result.Tokens.Single().Value) is { } span)
                return span;
            result.AddError($"--deadline '{result.Tokens.Single().Value}' is not a duration: {Durations.Right}");
            return null;
        },
    };
    private readonly Option<long?> _maxRequests = new("--max-requests")
    {
        Description = "the most requests to APIs; the run then stops, and the next start resumes it",
    };
    private readonly Option<bool> _full = new("--full")
    {
        Description = "start a run in which incremental pulls fetch everything",
    };

    private readonly Option<bool> _dryRun = new("--dry-run")
    {
        Description = "show the first requests and estimate how long the run would take; land nothing",
    };
    private readonly Option<bool> _ask = new("--ask")
    {
        Description = "with --dry-run: run the lookups of writes, to show which steps would follow",
    };
    private readonly Option<string?> _showIn = new("--show-in")
    {
        Description =
            "with --dry-run: the folder for each message and request as it would be sent; it is replaced [dry-run]; with --rehearse: the folder for the reports [rehearsal]",
    };
    private readonly Option<string?> _rehearse = new("--rehearse")
    {
        Description =
            "run the job from a recorded trace, with no network and no secret; reports go to a separate folder, and history, marks and deliveries are not touched",
        HelpName = "FILE",
    };
    private readonly Option<bool> _together = new("--together")
    {
        Description =
            "share the run with every machine or process that uses the same state and this option: the first one begins it, the others join, and reports are written and delivered once",
    };
    private readonly Option<bool> _noDeliveries = new("--no-deliveries")
    {
        Description = "enter deliveries in the ledger without sending them; cursiva deliver sends them",
    };
    private readonly Option<string?> _metrics = new("--metrics")
    {
        Description = "write the run's metrics to this file when it ends, as OpenMetrics text, for a collector that reads files",
        HelpName = "FILE",
    };
    private readonly Option<string?> _trace = TraceFile.Option();

    public Command Build()
    {
        var command = new Command("run", "Run a job, or resume a run that was stopped.")
        {
            _common.Job, _common.Input, _common.InputsFrom, _new, _resume, _deadline, _maxRequests, _full, _dryRun, _ask, _showIn, _rehearse, _together, _noDeliveries, _metrics, _trace, _common.EnvFile, _common.State, _common.Log, _common.Format,
        };
        command.Validators.Add(result =>
        {
            if (result.GetValue(_new) && result.GetValue(_resume))
                result.AddError("--new and --resume exclude each other");
            if (result.GetValue(_ask) && !result.GetValue(_dryRun))
                result.AddError("--ask is only for --dry-run");
            if (result.GetValue(_showIn) is not null && !result.GetValue(_dryRun) && result.GetValue(_rehearse) is null)
                result.AddError("--show-in is only for --dry-run and --rehearse");
            if (result.GetValue(_rehearse) is not null
                && new Option[] { _new, _resume, _dryRun, _together, _deadline, _maxRequests, _trace, _noDeliveries, _metrics }.FirstOrDefault(option => result.GetResult(option) is { Implicit: false }) is { } other)
                result.AddError($"--rehearse always starts from the beginning and delivers nothing; remove {other.Name}");
            if (result.GetValue(_maxRequests) is < 1)
                result.AddError("--max-requests must be a whole number from 1");
        });
        command.Executes(_common, async (parsed, place, cancel) =>
        {
            if (parsed.GetValue(_dryRun))
                return await LookAheadAsync(parsed, place, cancel);
            if (parsed.GetValue(_rehearse) is { } recorded)
                return await RehearseAsync(recorded, parsed, place, cancel);
            // Everything is another work than what was stopped, unless that was everything, too: that is resumed by a plain run.
            var choice = parsed.GetValue(_new) || (parsed.GetValue(_full) && !parsed.GetValue(_resume)) ? StartChoice.New : parsed.GetValue(
                _resume) ? StartChoice.GoOn : StartChoice.Either;
            var limits = new RunLimits(
                parsed.GetValue(_deadline),
                parsed.GetValue(_maxRequests),
                parsed.GetValue(_full),
                parsed.GetValue(_trace),
                parsed.GetValue(_noDeliveries),
                parsed.GetValue(_metrics))
            { Together = parsed.GetValue(_together) };
            return (await ExecuteAsync(
                JobSource.Of(parsed.GetValue(_common.Job)!, parsed, _common, place.Environment),
                choice,
                parsed.GetValue(_common.State),
                limits,
                place,
                cancel)).Outcome;
        });
        return command;
    }

    /// <summary>Runs a job, shows how it goes and how it ended.</summary>
    /// <returns>The exit code, and the number of the run; 0 when none began.</returns>
    public async Task<(Outcome Outcome, int Run)> ExecuteAsync(
        JobSource source, StartChoice choice, string? stateFolder, RunLimits limits, CommandContext place, CancellationToken cancel)
    {
        var (terminal, view, environment) = (place.Terminal, place.View, place.Environment);
        var clock = TimeProvider.System;
        try
        {
            var job = source.Read(clock.GetUtcNow());
            if (terminal.Events is { } events)
                events.Job = job.Name;
            var mistakes = JobCheck.Check(job);
            if (mistakes.Count > 0)
                throw new JobMistakesException(mistakes);

            var folder = StateFolder.Find(stateFolder, environment);
            var options = place.RunOptions(choice) with
            {
                State = folder,
                Engine = place.EngineOf(folder),
                Deadline = (limits.Deadline ?? job.Deadline) is { } span ? clock.GetUtcNow() + span : null,
                MaxRequests = limits.MaxRequests,
                Full = limits.Full,
                NoDeliveries = limits.NoDeliveries,
                StoppedBy = () => shutdown.Outcome,
                CanBeWatched = true,
            };
            using var trace = TraceFile.Open(limits.Trace, place.Redactor);
            options = options with
            {
                Trace = trace,
                Noted = trace is null ? null : notes => trace.Notes = JsonSerializer.Serialize(notes, RunNotesJson.Default.RunNotes),
            };
            using var telemetry = Telemetry.Begin(job.Name, environment);
            var advice = new Advice(source.Path, stateFolder);
            using var shown = RunView.For(terminal, clock, view, advice, job.Name);
            using var watch = telemetry is null ? shown : new TracedRunView(shown, telemetry, place.Redactor);
            var summary = limits.Together
                ? await new TogetherRun(options, watch).ExecuteAsync(job, source.Read, cancel)
                : await new JobRun(options, watch).ExecuteAsync(job, source.Read, cancel);
            watch.Dispose();
            new SummaryView(terminal, view, advice).Show(summary);
            var numbers = RunNumbers.Of(job.Name, summary, clock.GetUtcNow());
            telemetry?.End(summary, numbers);
            return (WriteMetrics(limits.Metrics, numbers, summary.Outcome, place), summary.Run);
        }
        catch (JobMistakesException error)
        {
            return (MistakesView.Show(terminal, error.Mistakes), 0);
        }
    }

    // A file that cannot be written makes a good run no worse than a report would; what the run itself said comes first.
    private static Outcome WriteMetrics(string? file, IReadOnlyList<Gauge> numbers, Outcome outcome, CommandContext place)
    {
        if (file is null)
            return outcome;
        try
        {
            WholeFile.Write(place.Disk, file, Encoding.UTF8.GetBytes(Gauge.Text(numbers)), shared: true);
            return outcome;
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            RefusalView.Show(
                place.Terminal,
                new Refusal(Outcome.ReportFailed, $"the run's metrics could not be written: {error.Message}")
                {
                    NextStep = "name a file in an existing folder that you can write to: --metrics FILE",
                },
                place.Advice);
            return outcome == Outcome.Done ? Outcome.ReportFailed : outcome;
        }
    }

    private async Task<Outcome> RehearseAsync(string recorded, ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        using var rehearsal = new Rehearsal(recorded, place.Redactor);
        var source = JobSource.Of(parsed.GetValue(_common.Job)!, parsed, _common, place.Environment);
        var into = Path.GetFullPath(parsed.GetValue(_showIn) ?? "rehearsal");
        Job Read(DateTimeOffset start) => Rehearsal.Of(source.ReadFor(start, rehearsal.Notes?.Inputs ?? []), into);
        var job = Read(rehearsal.Started);
        var mistakes = JobCheck.Check(job);
        if (mistakes.Count > 0)
            throw new JobMistakesException(mistakes);
        var options = rehearsal.Options(
            place.RunOptions(StartChoice.New) with { StoppedBy = () => shutdown.Outcome, Full = parsed.GetValue(_full) });
        await rehearsal.SeedAsync(job, options, cancel);
        using var watch = RunView.For(place.Terminal, CommandContext.Clock, place.View, place.Advice, job.Name);
        var summary = await new JobRun(options, watch).ExecuteAsync(job, Read, cancel);
        watch.Dispose();
        new SummaryView(place.Terminal, place.View, place.Advice).Show(summary);
        if (rehearsal.NotAsked is { Count: > 0 } left)
            place.Terminal.Error.Say(
                $"[yellow]Note:[/] {left.Count:N0} {(left.Count == 1 ? "request" : "requests")} of the recording {(left.Count == 1 ? "was" : "were")} not made: {string.Join(", ", left.Take(MostShown))}{(left.Count > MostShown ? ", ..." : "")}");
        if (rehearsal.Notes is { Marks.Count: > 0 })
            place.Terminal.Error.Say(
                $"[yellow]Note:[/] a recording has no rows of earlier runs: the reports have only the rows of this run.");
        place.Terminal.Error.Say($"This was a rehearsal of {recorded}: its reports are in {into}, and nothing else was changed.");
        return summary.Outcome;
    }

    private async Task<Outcome> LookAheadAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var job = place.ReadJob(parsed.GetValue(_common.Job)!);
        var services = await place.OpenAsync(job, cancel);
        using var trace = TraceFile.Open(parsed.GetValue(_trace), place.Redactor);
        services.Senders.Trace = trace;
        var account = await new DryRun(job, services, new JobFolder(services.StateFolder, job)).LookAsync(cancel);
        using var watch = RunView.For(place.Terminal, CommandContext.Clock, place.View, place.Advice, job.Name);
        var leaving = await new LeavingAhead(job, place.RunOptions(StartChoice.Either), watch).LookAsync(
            Path.GetFullPath(parsed.GetValue(_showIn) ?? "dry-run"), parsed.GetValue(_ask), cancel);
        watch.Dispose();
        DryRunView.Show(place.Terminal.Out, place.Json, account with { Leaving = leaving }, job.Deliveries.Count + job.Writes.Count > 0);
        return Outcome.Done;
    }
}
