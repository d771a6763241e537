using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Runs;

/// <summary>How the pulls of a run ended, from their landing (promise 11).</summary>
internal static class PullEnds
{
    /// <summary>One line a pull, in the job's order; pulls of which nothing ended yet are omitted.</summary>
    public static IReadOnlyList<PullFacts> Of(Job job, RunLanding landing) =>
        [.. job.Pulls.Select(pull => Of(pull, landing)).OfType<PullFacts>()];

    /// <summary>Makes sure that what has to be proven is.</summary>
    /// <exception cref="RefusedException">A pull that requires it is not proven to be whole.</exception>
    public static void Require(Job job, IReadOnlyList<PullFacts> ends)
    {
        var unproven = ends.Where(end => !end.Proven && job.Pulls.Any(pull => pull.Name == end.Pull && pull.RequiresProof)).ToList();
        if (unproven.Count == 0)
            return;
        throw new RefusedException(new Refusal(
            Outcome.ReportFailed,
            $"{string.Join("; ", unproven.Select(end => $"pull '{end.Pull}' is not proven to be whole: it ended by {end.Ended}"))}; no report was written, since the job requires it")
        {
            Cause = "the API announces neither a number of rows or pages nor an explicit end, or the job does not say where",
            NextStep =
                "declare total:, pages: or more: in paging:, or remove complete from require:, and write the reports with cursiva report",
        });
    }

    private static PullFacts? Of(Pull pull, RunLanding landing)
    {
        var ends = landing.Ends(pull.Name).Where(end => end.Ended != Ending.Halved.Code).ToList();
        if (ends.Count == 0)
            return null;
        var known = ends.Select(end => (Ending: Ending.Of(end.Ended), end.Strands, end.Told)).ToList();
        var strands = known.Sum(end => end.Strands);
        var proven = known.TrueForAll(end => end.Ending?.IsProven == true);

        // Of many strands the reasons that prove nothing come first.
        var words = known.OrderBy(end => end.Ending?.IsProven == true).ThenByDescending(end => end.Strands)
            .Select(end => known.Count == 1 ? end.Ending?.Words : $"{end.Ending?.Words} ({end.Strands:N0} of {strands:N0} strands)");
        var told = known.TrueForAll(end => end.Told is not null) ? known.Sum(end => end.Told) : null;
        return new PullFacts(
            pull.Name, strands, landing.CountOf(pull.Name).Pages, landing.CountOf(pull.Name).Rows, told, string.Join("; ", words), proven);
    }
}
