using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>What earlier good runs tell this one.</summary>
internal sealed class RunHistory(IReadOnlyList<RunRecord> runs, RunRecord present, JobFolder folder, RunOptions options)
{
    private readonly IReadOnlyList<RunRecord> _good = [.. runs.Where(run => run.State == RunState.Done && run.Number < present.Number)];

    /// <summary>The good run before this one; null for the first.</summary>
    public RunRecord? Previous => _good.Count > 0 ? _good[^1] : null;

    /// <summary>What the reports of the last good run had.</summary>
    public ReportTotals Totals => Previous?.Reports ?? ReportTotals.None;

    /// <summary>How far incremental pulls have got; empty when everything is asked for.</summary>
    public IReadOnlyDictionary<string, Dictionary<string, string>> Marks => present.Full || _good.Count == 0 ? new Dictionary<string, Dictionary<string, string>>() : _good[^1].Marks;

    /// <summary>The newest columns known of a pull.</summary>
    public IReadOnlyList<KnownColumn> LastSeen(string pull) =>
        _good.Reverse().Select(run => run.Columns.GetValueOrDefault(pull)).FirstOrDefault(columns => columns is { Length: > 0 }) ?? [];

    /// <summary>The landings whose rows a pull's newest state is made of, oldest first, without the present one.</summary>
    public IEnumerable<RunLanding> Landings(Pull pull) => !pull.GoesOnFromRuns || present.Full ? [] : Open(Chain(pull, _good));

    /// <summary>The landings whose rows are those of the last good run, oldest first; null when they are not there, or not any more.</summary>
    public IReadOnlyList<RunLanding>? PreviousLandings(Pull pull)
    {
        List<RunRecord> needed = pull.GoesOnFromRuns ? [.. Chain(pull, _good)] : [.. _good.TakeLast(1)];
        return needed.Count > 0 && needed.TrueForAll(run => run.LandingFormat == RunLanding.Format && IsThere(run)) ? [.. Open(needed)] : null;
    }

    /// <summary>The good runs whose rows a pull's newest state is made of, oldest first: from the last one that asked for everything.</summary>
    public static IEnumerable<RunRecord> Chain(Pull pull, IReadOnlyList<RunRecord> good)
    {
        var from = good.Count - 1;
        while (from > 0 && !good[from].Full)
            from--;
        return good.Skip(Math.Max(0, from)).Where(run => run.LandingFormat == RunLanding.Format && run.Marks.ContainsKey(pull.Name));
    }

    private IEnumerable<RunLanding> Open(IEnumerable<RunRecord> needed) =>
        needed.Where(IsThere).Select(run => new RunLanding(options.Disk, folder.LandingOf(run.Number), options.Clock));

    private bool IsThere(RunRecord run) => options.Disk.Exists(Path.Combine(folder.LandingOf(run.Number), "pages.db"));
}
