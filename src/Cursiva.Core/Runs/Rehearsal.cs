using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// A run that is answered from a recording: no network, no secret, and nothing of the job's own state is read or changed. It begins when
/// the recorded run began, under its number and with its marks.
/// </summary>
public sealed class Rehearsal : IDisposable
{
    private readonly Recording _recording;
    private readonly RecordedAnswers _answers;
    private readonly string _scratch;

    /// <summary>Opens a recording.</summary>
    /// <param name="path">The file, see <c>--trace</c>.</param>
    /// <param name="redactor">Masks what a recording masks.</param>
    /// <exception cref="RefusedException">It cannot be read, or is of a run that was resumed.</exception>
    public Rehearsal(string path, Redactor redactor)
    {
        _recording = Recording.Read(path);
        Notes = _recording.Notes is { } notes ? notes.Deserialize(RunNotesJson.Default.RunNotes) : null;
        if (Notes is { Resumed: true })
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, $"{path} is from a resumed run and has only the remaining requests")
            {
                NextStep = "record a run from its start: cursiva run JOB --new --trace FILE",
            });
        }

        if (_recording.Exchanges.Count == 0)
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"{path} has no exchange")
                {
                    NextStep = "record a run: cursiva run JOB --new --trace FILE",
                });
        _answers = new RecordedAnswers(_recording, path, redactor, forRehearsal: true);
        _scratch = Directory.CreateTempSubdirectory("cursiva-rehearsal-").FullName;
    }

    /// <summary>What was noted of the recorded run; null where another program recorded it, or the run was killed.</summary>
    public RunNotes? Notes { get; }

    /// <summary>When the recorded run began.</summary>
    public DateTimeOffset Started => Notes?.Started ?? _recording.Exchanges[0].Began;

    /// <summary>Requests of the recording that the job did not make.</summary>
    public IReadOnlyList<string> NotAsked =>
        [.. _answers.Left.Where(exchange => !exchange.IsSignIn).Select(
            exchange => $"{exchange.Method} {OneLine.Of(ShownAddress.Of(exchange.Uri))}")];

    /// <summary>The job as it is rehearsed: reports into a folder of their own, no limits to wait for, and nothing delivered.</summary>
    public static Job Of(Job job, string into) => job with
    {
        Out = Template.OfLiteral(into),
        Deliveries = [],
        Apis = job.Apis.ToDictionary(
            pair => pair.Key, pair => pair.Value with { Limits = new Limits([], 1, pair.Value.Limits.AtOnce) }, StringComparer.Ordinal),
    };

    /// <summary>What the rehearsed run works with.</summary>
    public RunOptions Options(RunOptions options) => Options(options, new SteadyClock(options.Clock, Started));

    private RunOptions Options(RunOptions options, TimeProvider clock) => options with
    {
        Choice = StartChoice.New,
        State = new StateFolder(_scratch),
        Clock = clock,
        Began = Started,
        Engine = new SqliteEngine(new StateFolder(_scratch), options.Disk, clock),
        NoDeliveries = true,
        Through = services =>
        {
            services.Senders.Dispose();
            return services with
            {
                Senders = new HttpSenders(services.Clock, services.Folder, _answers),
                Secrets = services.Secrets.Masked(),
                Rehearsed = new RehearsedSignIn(_recording),
            };
        },
    };

    /// <summary>Puts the run before the recorded one into the scratch state: its number and its marks.</summary>
    public async Task SeedAsync(Job job, RunOptions options, CancellationToken cancel)
    {
        await using var state = await options.Engine.OpenAsync(cancel);
        if (Notes is { Run: > 1 })
        {
            var folder = new JobFolder(options.State, job);
            await new RunStore(state, folder).WriteAsync(
                new RunRecord(Notes.Run - 1, Started.AddSeconds(-1), "", Landing.RunLanding.Format)
                {
                    Phase = Notes.Marks.Count > 0 ? RunPhase.Done : RunPhase.SetAside,
                    EndedAt = Started.AddSeconds(-1),
                    Marks = Notes.Marks,
                    PullPrints = new(job.PullPrints),
                },
                cancel);

            // Its rows are not in a recording: there were none.
            await using var landing = new Landing.RunLanding(options.Disk, folder.LandingOf(Notes.Run - 1), options.Clock);
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _answers.Dispose();
        Directory.Delete(_scratch, recursive: true);
    }
}
