using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Runs;

/// <summary>Whether a start resumes a stopped run, and why.</summary>
/// <param name="GoOn">The resumed run, or null for a new one.</param>
/// <param name="Reason">Why, in words.</param>
/// <param name="Possible">False when resuming was insisted on and cannot be.</param>
public sealed record StartDecision(RunRecord? GoOn, string Reason, bool Possible = true)
{
    /// <summary>The pulls whose landed rows are kept.</summary>
    public IReadOnlySet<string> Kept { get; init; } = new HashSet<string>();

    /// <summary>
    /// Decides by the rules of the user: the same period, the same landing format, young enough, and at least one pull that is as it was.
    /// </summary>
    /// <param name="last">The newest run of the job, or null.</param>
    /// <param name="now">The job as read now: its relative times are told from now.</param>
    /// <param name="then">The job as read now, with its relative times told from the start of the last run.</param>
    public static StartDecision Decide(StartChoice choice, RunRecord? last, Job now, Job then, DateTimeOffset time)
    {
        if (last is null)
            return choice == StartChoice.GoOn ? Impossible("the job has no run yet") : new StartDecision(null, "the first run of this job");
        if (last.IsFinished)
            return choice == StartChoice.GoOn
                ? Impossible($"run {last.Number} is finished")
                : new StartDecision(null, $"run {last.Number} is finished");
        if (choice == StartChoice.New)
            return new StartDecision(null, $"--new was given; run {last.Number} is set aside");

        var age = time - last.StartedAt;
        var reason =
            $"run {last.Number}, begun {Durations.ForPeople(age)} ago, {(last.Note is null ? "was cut short" : "ended: " + last.Note)}";
        if (last.LandingFormat != RunLanding.Format)
            return Refused(choice, $"run {last.Number} was landed by another version of Cursiva");

        // Its rows are all there: another start that asked for none of them would stay with them until they are old.
        if (last.Outcome == (int)Outcome.ReportFailed && last.LandedAt is not null && choice != StartChoice.GoOn)
            return new StartDecision(
                null,
                $"run {last.Number} has all its rows but wrote no report: cursiva report writes one from them; this run fetches new rows");

        var kept = then.PullPrints
            .Where(pull => last.PullPrints.GetValueOrDefault(pull.Key) == pull.Value)
            .Select(pull => pull.Key)
            .ToHashSet(
            StringComparer.Ordinal);
        if (kept.Count == 0)
            return Refused(choice, $"every pull of the job has changed since run {last.Number}");

        // With --resume the times of then are meant, and a new period is no reason against it.
        if (last.Period != now.Period && choice != StartChoice.GoOn)
            return Refused(choice, $"run {last.Number} is for an earlier period");
        if (age > now.ResumeWithin && choice != StartChoice.GoOn)
            return Refused(choice, $"run {last.Number} is older than resume-within ({Durations.ForPeople(now.ResumeWithin)})");
        var changed = then.Pulls.Select(pull => pull.Name).Where(name => !kept.Contains(name)).ToList();
        return new StartDecision(
            last, changed.Count == 0 ? reason : $"{reason}; changed since, and fetched again: {string.Join(", ", changed)}")
        {
            Kept = kept,
        };
    }

    private static StartDecision Refused(StartChoice choice, string why) =>
        choice == StartChoice.GoOn ? Impossible(why) : new StartDecision(null, why);

    private static StartDecision Impossible(string why) => new(null, why, Possible: false);
}
