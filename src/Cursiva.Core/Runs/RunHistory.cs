using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>What earlier good runs tell this one.</summary>
internal sealed class RunHistory(IReadOnlyList<RunRecord> runs, RunRecord present, JobFolder folder, RunOptions options)
{
    private readonly IReadOnlyList<RunRecord> _good = [.. runs.Where(run => run.State == RunState.Done && run.Number < present.Number)];

    /// <summary>How far incremental pulls have got; empty when everything is asked for.</summary>
    public IReadOnlyDictionary<string, Dictionary<string, string>> Marks => present.Full || _good.Count == 0 ? new Dictionary<string, Dictionary<string, string>>() : _good[^1].Marks;

    /// <summary>The newest columns known of a pull.</summary>
    public IReadOnlyList<KnownColumn> LastSeen(string pull) =>
        _good.Reverse().Select(run => run.Columns.GetValueOrDefault(pull)).FirstOrDefault(columns => columns is { Length: > 0 }) ?? [];

    /// <summary>The landings whose rows a pull's newest state is made of, oldest first, without the present one.</summary>
    public IEnumerable<RunLanding> Landings(Pull pull)
    {
        if (!pull.GoesOnFromRuns || present.Full)
            yield break;
        var from = _good.Count - 1;
        while (from > 0 && !_good[from].Full)
            from--;
        foreach (var run in _good.Skip(Math.Max(0, from)).Where(run => run.LandingFormat == RunLanding.Format && run.Marks.ContainsKey(pull.Name)))
        {
            var place = folder.LandingOf(run.Number);
            if (options.Disk.Exists(Path.Combine(place, "pages.db")))
                yield return new RunLanding(options.Disk, place, options.Clock);
        }
    }
}
