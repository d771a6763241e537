using Cursiva.Core.Deliveries;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Runs;

/// <summary>What a run has to do with deliveries: it sends what is pending, enters what it brings, and sends that.</summary>
internal sealed class DeliveryStage : IDisposable
{
    private readonly Job _job;
    private readonly RunOptions _options;
    private readonly IRunWatch _watch;
    private readonly DeliveryDesk _desk;
    private readonly SignInServices _services;
    private readonly SignIns _signIns;
    private readonly List<LedgerEntry> _handled = [];

    public DeliveryStage(Job job, RunScope scope, RunOptions options, IRunWatch watch)
    {
        (_job, _options, _watch) = (job, options, watch);
        var environment = EnvironmentFile.Over(options.Environment, job.EnvFile, watch.Warned);
        _services = SignInServices.Of(scope.State, options.State, options.Disk, options.Redactor, environment, job.Folder, options.Clock, options.Random, watch, watch);
        _signIns = new SignIns(_services);
        Ledger = new LedgerBook(scope.State, scope.Folder.Key, options.Clock);
        _desk = new DeliveryDesk(job, Ledger, options.Disk, scope.Folder.Outbox, new Carriers(job.Name, _services, _signIns.Of), options.Clock, watch.Doing);
    }

    public LedgerBook Ledger { get; }

    public DeliveryDesk Desk => _desk;

    /// <summary>What was sent, and what has something to be done about it.</summary>
    public IReadOnlyList<LedgerEntry> Handled => [.. _handled.GroupBy(entry => entry.Id).Select(same => same.Last())];

    public void Dispose()
    {
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
            _watch.Warned($"what earlier runs left to be delivered is still here: {error.Refusal.What}");
        }
    }

    /// <summary>Enters what is to be delivered of a run.</summary>
    /// <param name="refusal">Why it did not end well; null where it did.</param>
    /// <exception cref="RefusedException">The outbox cannot be written.</exception>
    public async Task EnterAsync(RunRecord run, string outFolder, ReportsWritten written, Refusal? refusal, CancellationToken cancel)
    {
        if (_job.Deliveries.Count == 0)
            return;
        var news = new RunNews(_job.Title, run.Number, TimeZoneInfo.ConvertTime(run.StartedAt, _job.Zone), RunNames.Of(_job, run), outFolder, written.Files, refusal is null ? null : _options.Redactor.Clean(refusal)) { Extracts = written.Extracts };
        try
        {
            _handled.AddRange(await Task.Run(() => _desk.EnterAsync(news, cancel), cancel));
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new RefusedException(new Refusal(Outcome.ReportFailed, $"what is to be delivered cannot be put aside: {error.Message}") { NextStep = "make room in the state folder, and write the reports with cursiva report; nothing is fetched again" }, error);
        }
    }

    /// <summary>Sends what is pending.</summary>
    /// <returns>What has not left, told for people; null where everything has.</returns>
    public async Task<Refusal?> SendAsync(CancellationToken cancel)
    {
        if (_options.NoDeliveries)
            return null;
        try
        {
            _handled.AddRange(await _desk.SendAsync(cancel));
        }
        catch (RefusedException error)
        {
            return error.Refusal with { Outcome = Outcome.DeliveryFailed, NextStep = $"{error.Refusal.NextStep}; then send what is here: cursiva deliver JOB" };
        }

        return DeliveryDesk.Objection(Handled);
    }
}
