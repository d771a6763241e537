using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>What earlier good runs tell this one.</summary>
/// <param name="present">The record of this one, as it is by now.</param>
internal sealed class RunHistory(IReadOnlyList<RunRecord> runs, Func<RunRecord> present, JobFolder folder, RunOptions options) : IPullPast
{
    // Of more strands than these the rest is asked for as usual.
    private const int MostTagged = 50_000;

    private readonly Dictionary<string, TaggedPages> _tagged = new(StringComparer.Ordinal);
    private readonly IReadOnlyList<RunRecord> _good = [.. runs.Where(run => run.Phase == RunPhase.Done && run.Number < present().Number)];

    /// <summary>The good run before this one; null for the first.</summary>
    public RunRecord? LastGood => _good.Count > 0 ? _good[^1] : null;

    /// <summary>What the reports of the last good run had.</summary>
    public ReportTotals Totals => LastGood?.Reports ?? ReportTotals.None;

    /// <summary>How far incremental pulls have got; empty when everything is asked for.</summary>
    public IReadOnlyDictionary<string, Dictionary<string, string>> Marks =>
        present().Full || _good.Count == 0 ? new Dictionary<string, Dictionary<string, string>>() : _good[^1].Marks;

    // A token that the API has forgotten is not sent again, by whichever start it was found out.
    public string? Mark(Pull pull, string strand) =>
        pull.Paging.Delta is not null && present().IsAnew(pull.Name, strand)
            ? null
            : Marks.GetValueOrDefault(pull.Name)?.GetValueOrDefault(strand);

    public bool LedOn(Pull pull) => _good.Any(run => run.Ends.Any(end => end.Pull == pull.Name && end.Pages > end.Strands));

    public TaggedPages Tagged(Pull pull)
    {
        lock (_tagged)
        {
            if (!_tagged.TryGetValue(pull.Name, out var pages))
                _tagged[pull.Name] = pages = IsAsBefore(pull)
                    ? RunLanding.TaggedPages(options.Disk, folder.LandingOf(LastGood!.Number), pull.Name, MostTagged)
                    : TaggedPages.None;
            return pages;
        }
    }

    public IReadOnlyList<KnownColumn> LastSeen(string pull) =>
        _good.Reverse().Select(run => run.Columns.GetValueOrDefault(pull)).FirstOrDefault(columns => columns is { Length: > 0 }) ?? [];

    /// <summary>The landings of earlier runs whose rows still count. To be disposed of.</summary>
    /// <exception cref="RefusedException">One of them is not there any more.</exception>
    public LandingChain Earlier(Pull pull)
    {
        if (!pull.GoesOnFromRuns || present().Full)
            return LandingChain.None;
        List<RunRecord> needed = [.. Chain(pull, _good)];
        if (needed.Find(run => !IsThere(pull, run)) is { } gone)
        {
            throw new RefusedException(new Refusal(
                Outcome.InternalError, $"the rows of run {gone.Number} are gone, but pull '{pull.Name}' continues from them")
            {
                Cause = $"somebody removed {LandingOf(pull, gone)}",
                NextStep = "run with --new --full, which fetches everything again",
            });
        }

        return Open(pull, needed, present());
    }

    /// <summary>
    /// The landings whose rows are those of the last good run; null when they are not there, or not any more. To be disposed of.
    /// </summary>
    public LandingChain? Before(Pull pull)
    {
        List<RunRecord> needed = pull.GoesOnFromRuns ? [.. Chain(pull, _good)] : [.. _good.TakeLast(1)];
        return needed.Count > 0 && needed.TrueForAll(run => run.LandingFormat == RunLanding.Format && IsThere(pull, run))
            ? Open(pull, needed, null)
            : null;
    }

    /// <summary>The landings whose rows are those of the present run, its own included. To be disposed of.</summary>
    public LandingChain Present(Pull pull) => Open(pull, pull.GoesOnFromRuns ? [.. Chain(pull, [.. _good, present()])] : [present()], null);

    /// <summary>
    /// The good runs whose rows a pull's newest state is made of, oldest first: from the last one that asked for everything, or whose
    /// rows are folded with those before it.
    /// </summary>
    public static IEnumerable<RunRecord> Chain(Pull pull, IReadOnlyList<RunRecord> good)
    {
        var from = good.Count - 1;
        while (from > 0 && !good[from].AskedForAll(pull) && !good[from].Folded.Contains(pull.Name))
            from--;
        return good.Skip(Math.Max(0, from)).Where(run => run.LandingFormat == RunLanding.Format && run.Marks.ContainsKey(pull.Name));
    }

    private LandingChain Open(Pull pull, IReadOnlyList<RunRecord> needed, RunRecord? later) =>
        new(
            [.. needed.Select(
                (run, place) => (new RunLanding(options.Disk, LandingOf(pull, run), options.Clock), Anew(pull,
                [
                    .. needed.Skip(place + 1),
                    .. later is null ? [] : new[] { later },
                ])))]);

    private string LandingOf(Pull pull, RunRecord run) =>
        run.Folded.Contains(pull.Name) ? folder.FoldOf(run.Number, pull.Name) : folder.LandingOf(run.Number);

    private static IReadOnlySet<string> Anew(Pull pull, IEnumerable<RunRecord> later) =>
        later.SelectMany(run => run.Anew.GetValueOrDefault(pull.Name) ?? []).ToHashSet(StringComparer.Ordinal);

    private bool IsAsBefore(Pull pull) =>
        !present().Full && LastGood is { LandingFormat: RunLanding.Format } before && IsThere(pull, before)
        && before.PullPrints.TryGetValue(pull.Name, out var print) && print == present().PullPrints.GetValueOrDefault(pull.Name);

    private bool IsThere(Pull pull, RunRecord run) => options.Disk.Exists(Path.Combine(LandingOf(pull, run), "pages.db"));
}
