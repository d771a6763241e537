using System.Globalization;
using Cursiva.Core.Apis;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Reports;

namespace Cursiva.Core.Runs;

/// <summary>Puts together what is counted of one start of a run.</summary>
internal sealed class StartFigures(RunCounters counters, StageClock stages)
{
    /// <summary>The figures of this start, with those of the starts before it.</summary>
    public async Task<RunFigures> OfAsync(
        Job job, RunRecord run, RunScope scope, IReadOnlyList<WrittenFile> files, IReadOnlyList<LedgerEntry> deliveries) => new RunFigures
        {
            Statuses = counters.Statuses.ToDictionary(
            status => status.Key == 0 ? "none" : status.Key.ToString(CultureInfo.InvariantCulture), status => status.Value),
            Retries = counters.Retries,
            WaitedS = Math.Round(counters.Waited.TotalSeconds, 3),
            StagesS = stages.Seconds,
            LandedBytes = DiskSpace.Below(scope.Folder.LandingOf(run.Number)),
            FileBytes = files.Sum(file => file.Bytes),
            Limits = await LimitUses.OfAsync(job, scope.State, CancellationToken.None),
            Deliveries = deliveries.GroupBy(entry => LedgerWords.Of(entry.Phase)).ToDictionary(group => group.Key, group => group.Count()),
        }.After(run.Figures);
}
