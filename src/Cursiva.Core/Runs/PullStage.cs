using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>Fills all pulls of a run, and counts what was skipped.</summary>
internal sealed class PullStage(
    Job job, RunOptions options, JobFolder folder, RunRecord run, string outFolder, IRunWatch watch, RunCounters counters)
{
    private const int MostWarnings = 100;
    private const int MostSkips = 1000;

    private readonly Dictionary<string, PullProgress> _progress = new(StringComparer.Ordinal);
    private readonly List<string> _warnings = [.. run.Warnings];

    /// <summary>How far each pull is, in the job's order.</summary>
    public IReadOnlyList<PullProgress> Progress
    {
        get
        {
            lock (_progress)
                return [.. job.Pulls.Select(pull => _progress.GetValueOrDefault(pull.Name)).OfType<PullProgress>()];
        }
    }

    /// <summary>The strands that were skipped; the first thousand.</summary>
    public IReadOnlyList<SkipLine> Skips { get; private set; } = [];

    /// <summary>How many strands were skipped, and why.</summary>
    public IReadOnlyList<SkipReason> Reasons { get; private set; } = [];

    /// <summary>How the pulls ended, as far as they did.</summary>
    public IReadOnlyList<PullFacts> Ends { get; private set; } = [];

    /// <summary>Lands whatever is still missing of every pull.</summary>
    /// <param name="anew">Keeps, durably, that a strand of a pull starts over.</param>
    /// <param name="hands">Fetches strands on other machines as well; null for none.</param>
    /// <exception cref="RefusedException">An API refused, or more was skipped than the job allows.</exception>
    public async Task RunAsync(
        RunLanding landing,
        ApiClients clients,
        SignInServices services,
        IPullPast past,
        Func<Pull, string, Task> anew,
        IStrandHands? hands,
        CancellationToken cancel)
    {
        var pullServices = ServicesOf(landing, clients, services, past, anew) with { Hands = hands };
        try
        {
            foreach (var family in PullFamily.Of(job.Pulls))
                await new PullFamily(family, pullServices).RunAsync(Note, cancel);
        }
        finally
        {
            Skips = [.. job.Pulls.SelectMany(pull => landing.Skipped(pull.Name)).Take(MostSkips).Select(Line)];
            Reasons = [.. job.Pulls.SelectMany(pull => landing.SkipReasons(pull.Name))];
            Ends = PullEnds.Of(job, landing);
        }

        CheckSkips(landing);
    }

    /// <summary>What the pulls of this run work with.</summary>
    /// <param name="anew">Keeps, durably, that a strand of a pull starts over.</param>
    public PullServices ServicesOf(
        RunLanding landing, ApiClients clients, SignInServices services, IPullPast past, Func<Pull, string, Task> anew) => new(
            job, landing, clients.OfAsync, past, services.Secrets, options.Redactor, options.Disk,
            folder.OddPagesOf(run.Number), outFolder, services.Backoff, services.Budget, options.Clock, counters, watch, Warned, anew);

    /// <summary>The marks that this run has got to: those of the last one, moved on.</summary>
    public Dictionary<string, Dictionary<string, string>> Marks(
        RunLanding landing, IReadOnlyDictionary<string, Dictionary<string, string>> before)
    {
        var marks = new Dictionary<string, Dictionary<string, string>>(StringComparer.Ordinal);
        foreach (var pull in job.Pulls.Where(pull => pull.GoesOnFromRuns))
        {
            var moved = new Dictionary<string, string>(before.GetValueOrDefault(pull.Name) ?? [], StringComparer.Ordinal);
            var values = landing.Strands(pull.Name).ToDictionary(strand => strand.Strand, strand => strand.Values, StringComparer.Ordinal);
            foreach (var (strand, mark) in landing.Marks(pull.Name))
            {
                var key = values.GetValueOrDefault(strand, StrandValues.None.ToJson());
                moved[key] = pull.Incremental is null ? mark : Pulls.Marks.Higher(moved.GetValueOrDefault(key), mark)!;
            }

            marks[pull.Name] = moved;
        }

        return marks;
    }

    /// <summary>What readers of the reports should know of how the rows came.</summary>
    public IReadOnlyList<string> Warnings
    {
        get
        {
            lock (_warnings)
                return [.. _warnings];
        }
    }

    /// <summary>Notes what people should know.</summary>
    public void Warned(string what)
    {
        lock (_warnings)
        {
            // A warning for each of many strands is as good as a hundred of them.
            if (_warnings.Count < MostWarnings && !_warnings.Contains(what))
                _warnings.Add(what);
        }

        watch.Warned(what);
    }

    private void Note(PullProgress progress)
    {
        lock (_progress)
            _progress[progress.Pull] = progress;
    }

    private void CheckSkips(RunLanding landing)
    {
        if (job.Skips == SkipsEnd.Fail && Reasons.Count > 0)
            throw TooMany(Reasons, "no report was written");
        foreach (var pull in job.Pulls.Where(pull => pull.AllowSkips is not null))
        {
            List<SkipReason> reasons = [.. Reasons.Where(reason => reason.Pull == pull.Name)];
            var (skipped, strands) = (reasons.Sum(reason => reason.Strands), landing.StrandCount(pull.Name));
            if (pull.AllowSkips!.Allows(skipped, strands))
                continue;
            throw new RefusedException(new Refusal(
                Outcome.TooManySkips, $"pull '{pull.Name}' skipped {skipped} of {strands} strands, but the job allows {pull.AllowSkips}")
            {
                Cause = MostOf(reasons),
                NextStep = "fix the cause and run again: only skipped strands are fetched again; or raise allow-skips:",
            });
        }
    }

    /// <summary>The refusal of a run that skipped what its job does not want to be skipped.</summary>
    public static RefusedException TooMany(IReadOnlyList<SkipReason> reasons, string what) =>
        new(new Refusal(
            Outcome.TooManySkips,
            $"{(reasons.Sum(reason => reason.Strands) is > 1 and var skipped ? $"{skipped:N0} strands were" : "1 strand was")} skipped, which ends the job with its own code (skips:); {what}")
        {
            Cause = MostOf(reasons),
            NextStep = "fix the cause and run again: only skipped strands are fetched again",
        });

    private static string MostOf(IEnumerable<SkipReason> reasons) =>
        string.Join(
            "; ",
            reasons.GroupBy(reason => reason.Because, reason => reason.Strands).OrderByDescending(group => group.Sum()).Take(3).Select(
                group => $"{group.Sum():N0} x {group.Key}"));

    private static SkipLine Line(LandedStrand strand) =>
        new(
            strand.Pull,
            StrandValues.Parse(strand.Values).ToString(),
            strand.Skip!.Status,
            strand.Skip.Because,
            strand.Skip.Said,
            strand.Skip.Request);
}
