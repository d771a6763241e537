using System.Text.Json;
using Cursiva.Core.Deliveries;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tables;
using Cursiva.Core.Writes;

namespace Cursiva.Core.Runs;

/// <summary>What a run has to do with the ledger: it sends what is pending, enters what it brings, and sends that.</summary>
internal sealed class DeliveryStage : IAsyncDisposable
{
    private readonly Job _job;
    private readonly RunOptions _options;
    private readonly IRunWatch _watch;
    private readonly DeliveryDesk _desk;
    private readonly FileDesk _files;
    private readonly WriteDesk _writes;
    private readonly ItemDecision _items;
    private readonly JobFolder _folder;
    private readonly SignInServices _services;
    private readonly SignIns _signIns;
    private readonly ApiClients _clients;
    private readonly IStateFiles _shared;
    private readonly Outbox _outbox;
    private readonly List<LedgerEntry> _handled = [];

    public DeliveryStage(Job job, RunScope scope, RunOptions options, IRunWatch watch, RunCounters? counters = null, Budget? budget = null)
    {
        (_job, _options, _watch, _folder) = (job, options, watch, scope.Folder);
        counters ??= new RunCounters(watch, options.Clock);
        var environment = EnvironmentFile.Over(options.Environment, job.EnvFile, watch.Warned);
        _services = SignInServices.Of(
            scope.State,
            options.State,
            options.Disk,
            options.Redactor,
            environment,
            job.Folder,
            options.Clock,
            options.Random,
            counters,
            counters) with
        { Budget = budget ?? Budget.Unlimited };
        _services.Senders.Trace = options.Trace;
        _signIns = new SignIns(_services);
        _clients = new ApiClients(job, _signIns, _services);
        _shared = scope.State.Files;
        _outbox = new Outbox(options.Disk, scope.Folder.Outbox, _shared);
        Ledger = new LedgerBook(scope.State, scope.Folder.Key, options.Clock);
        _files = new FileDesk(job.Name, job.Inputs, scope.State, scope.Folder.Key, _services, _clients.OfAsync, watch.Doing);
        _desk = new DeliveryDesk(
            job,
            Ledger,
            options.Disk,
            _outbox,
            new Carriers(job.Name, _services, _signIns.Of, _files),
            options.Clock,
            watch.Doing);
        _items = new ItemDecision(Ledger, scope.State, scope.Folder.Key, options.Clock);
        _writes = new WriteDesk(job, Ledger, scope.State, scope.Folder.Key, _services, _outbox, _clients.OfAsync, watch.Doing);
    }

    public LedgerBook Ledger { get; }

    /// <summary>What was sent, and what has something to be done about it.</summary>
    public IReadOnlyList<LedgerEntry> Handled => [.. _handled.GroupBy(entry => entry.Id).Select(same => same.Last())];

    public async ValueTask DisposeAsync()
    {
        await _clients.DisposeAsync();
        _signIns.Dispose();
        _services.Senders.Dispose();
    }

    /// <summary>Sends what earlier runs left. What stands in its way is no reason not to run.</summary>
    public async Task SendPendingAsync(CancellationToken cancel)
    {
        try
        {
            await SendAsync(cancel);
        }
        catch (RefusedException error)
        {
            _watch.Warned($"pending deliveries of earlier runs could not be sent: {error.Refusal.What}");
        }
    }

    /// <summary>Enters what is to be delivered of a run.</summary>
    /// <param name="refusal">Why it did not end well; null where it did.</param>
    /// <exception cref="RefusedException">The outbox cannot be written.</exception>
    public async Task EnterAsync(RunRecord run, string outFolder, ReportsWritten written, Refusal? refusal, CancellationToken cancel)
    {
        if (_job.Deliveries.Count == 0)
            return;
        var news = new RunNews(
            _job.Title,
            run.Number,
            TimeZoneInfo.ConvertTime(run.StartedAt, _job.Zone),
            RunNames.Of(_job, run),
            outFolder,
            written.Files,
            refusal is null ? null : _options.Redactor.Clean(new Advice(_job.Path, _options.State.Name).Of(refusal)))
        {
            Extracts = written.Extracts,
        };
        await AsideAsync(async () => _handled.AddRange(await _desk.EnterAsync(news, cancel)), cancel);
    }

    /// <summary>Enters what overview found, for the deliveries that tell it, and sends it.</summary>
    /// <param name="number">Tells this time from others.</param>
    /// <returns>What has not left, told for people; null where everything has.</returns>
    /// <exception cref="RefusedException">The outbox cannot be written.</exception>
    public async Task<Refusal?> TellAsync(int number, string words, CancellationToken cancel)
    {
        var now = TimeZoneInfo.ConvertTime(_options.Clock.GetUtcNow(), _job.Zone);
        var news = new RunNews(_job.Title, number, now, RunNames.Of(_job, new RunRecord(number, now, "", 0)), "", [], null)
        {
            Alarm = _options.Redactor.Clean(words),
        };
        await AsideAsync(async () => _handled.AddRange(await _desk.EnterAsync(news, cancel)), cancel);
        return await SendAsync(cancel);
    }

    /// <summary>Does what the job's writes say about a run's items.</summary>
    /// <param name="extracts">The file of items of each write, by its name.</param>
    /// <returns>What became of each item.</returns>
    /// <exception cref="RefusedException">The outbox cannot be written.</exception>
    public async Task<IReadOnlyList<WrittenRow>> WriteAsync(
        RunRecord run, IReadOnlyDictionary<string, string> extracts, CancellationToken cancel)
    {
        await AsideAsync(() => _writes.EnterAsync(run.Number, extracts, cancel), cancel);
        if (!_options.NoDeliveries)
            _handled.AddRange(await WritesAsync(cancel));
        var rows = await _writes.RowsAsync(run.Number, extracts, cancel);
        await File.WriteAllLinesAsync(
            _folder.WrittenOf(run.Number),
            rows.Select(row => JsonSerializer.Serialize(row, RunRecordJson.Default.WrittenRow)),
            CancellationToken.None);
        await _shared.PutAsync(_folder.WrittenOf(run.Number), cancel);
        return rows;
    }

    /// <summary>What became of each item in a run that is over.</summary>
    public IReadOnlyList<WrittenRow> Written(RunRecord run) =>
        File.Exists(_folder.WrittenOf(run.Number))
            ? [.. File.ReadLines(_folder.WrittenOf(run.Number)).Select(
                line => JsonSerializer.Deserialize(line, RunRecordJson.Default.WrittenRow)!)]
            : [];

    /// <summary>Sends what is pending.</summary>
    /// <returns>What has not left, told for people; null where everything has.</returns>
    public async Task<Refusal?> SendAsync(CancellationToken cancel)
    {
        if (_options.NoDeliveries)
            return null;
        try
        {
            _handled.AddRange(await WritesAsync(cancel));
            _handled.AddRange(await _desk.SendAsync(cancel));
        }
        catch (RefusedException error)
        {
            return error.Refusal with
            {
                Outcome = Outcome.DeliveryFailed,
                NextStep = $"{error.Refusal.NextStep}; then send what is pending: cursiva deliver JOB",
            };
        }

        return LedgerWords.Objection(Handled);
    }

    /// <summary>Composes what would be delivered of a run, and enters and sends nothing.</summary>
    /// <param name="into">The folder that shows it.</param>
    public async Task<IReadOnlyList<LeavingLine>> ComposeAsync(
        RunRecord run, string outFolder, ReportsWritten written, string into, CancellationToken cancel)
    {
        var news = new RunNews(
            _job.Title,
            run.Number,
            TimeZoneInfo.ConvertTime(run.StartedAt, _job.Zone),
            RunNames.Of(_job, run),
            outFolder,
            written.Files,
            null)
        {
            Extracts = written.Extracts,
        };
        return [.. (await _desk.ComposeAsync(news, into, cancel)).Select(
            parcel => new LeavingLine(parcel.Delivery, parcel.To, parcel.What, parcel.Path))];
    }

    /// <summary>Plans what a write would change, and changes nothing.</summary>
    /// <param name="items">The file of its items.</param>
    /// <param name="into">The file that takes the requests, a line of JSON each.</param>
    /// <param name="asks">Whether looks are taken.</param>
    public async Task<LeavingLine> PlanAsync(Write write, RunRecord run, string items, string into, bool asks, CancellationToken cancel) =>
        new(write.Name, write.Api, await _writes.PlanAsync(write, run.Number, items, into, asks, cancel), into);

    /// <summary>Enters somebody's decision about an entry.</summary>
    public async Task<LedgerEntry> DecideAsync(LedgerEntry entry, LedgerPhase phase, CancellationToken cancel)
    {
        if (entry.IsWrite)
            return await _writes.DecideAsync(entry, phase, cancel);
        if (_job.Deliveries.FirstOrDefault(delivery => delivery.Name == entry.Of)?.Way is UploadWay upload)
            await _files.DecideAsync(upload.Work, entry, phase, cancel);
        return await _desk.DecideAsync(entry, phase);
    }

    /// <summary>Enters somebody's decision about one item of a write.</summary>
    /// <param name="name">The entry's id and the item's key: <c>notices-12/c-1</c>.</param>
    /// <returns>The entry as it is now; null where no entry is meant.</returns>
    public async Task<LedgerEntry?> DecideItemAsync(string name, LedgerPhase phase, CancellationToken cancel)
    {
        if (await _items.EntryOfAsync(name, cancel) is not { } entry)
            return null;
        var decided = await _items.TakeAsync(entry, name, phase, cancel);
        if (decided.Phase == LedgerPhase.Sent)
            await _outbox.RemoveAsync(entry.Id);
        return decided;
    }

    // Once in a start: what could not be sent a moment ago cannot be sent now.
    private async Task<IReadOnlyList<LedgerEntry>> WritesAsync(CancellationToken cancel) =>
        await _writes.SendAsync([.. _handled.Where(entry => entry.IsPending).Select(entry => entry.Id)], cancel);

    private static async Task AsideAsync(Func<Task> enter, CancellationToken cancel)
    {
        try
        {
            await Task.Run(enter, cancel);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new RefusedException(
                new Refusal(Outcome.ReportFailed, $"the deliveries cannot be stored: {error.Message}")
                {
                    NextStep = "make room in the state folder, and write the reports with cursiva report; nothing is fetched again",
                },
                error);
        }
    }
}
