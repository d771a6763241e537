using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Runs;

/// <summary>Whether a start goes on with a stopped run, and why.</summary>
/// <param name="GoOn">The run that is gone on with, or null for a new one.</param>
/// <param name="Reason">Why, in words.</param>
/// <param name="Possible">False when going on was insisted on and cannot be.</param>
public sealed record StartDecision(RunRecord? GoOn, string Reason, bool Possible = true)
{
    /// <summary>Decides by the rules of the user: same job, same inputs, same landing format, and young enough.</summary>
    /// <param name="last">The newest run of the job, or null.</param>
    /// <param name="now">The job as read now: its relative times are told from now.</param>
    /// <param name="then">The job as read now, with its relative times told from the start of the last run.</param>
    public static StartDecision Decide(StartChoice choice, RunRecord? last, Job now, Job then, DateTimeOffset time)
    {
        if (last is null)
            return choice == StartChoice.GoOn ? Impossible("the job has no run yet") : new StartDecision(null, "the first run of this job");
        if (last.IsFinished)
            return choice == StartChoice.GoOn ? Impossible($"run {last.Number} is finished") : new StartDecision(null, $"run {last.Number} is finished");
        if (choice == StartChoice.New)
            return new StartDecision(null, $"--new was given; run {last.Number} is set aside");

        var age = time - last.StartedAt;
        var reason = $"run {last.Number}, begun {Durations.ForPeople(age)} ago, {(last.Note is null ? "was cut short" : "ended so: " + last.Note)}";
        if (last.LandingFormat != RunLanding.Format)
            return Refused(choice, $"run {last.Number} was landed by another version of Cursiva");

        if (last.Fingerprint != then.Fingerprint)
            return Refused(choice, $"the job or its inputs have changed since run {last.Number}");

        // With --resume the times of then are meant, and a new period is no reason against it.
        if (last.Fingerprint != now.Fingerprint && choice != StartChoice.GoOn)
            return Refused(choice, $"run {last.Number} is about an earlier period");
        if (age > now.ResumeWithin && choice != StartChoice.GoOn)
            return Refused(choice, $"run {last.Number} is older than resume-within ({Durations.ForPeople(now.ResumeWithin)})");
        return new StartDecision(last, reason);
    }

    private static StartDecision Refused(StartChoice choice, string why) =>
        choice == StartChoice.GoOn ? Impossible(why) : new StartDecision(null, why);

    private static StartDecision Impossible(string why) => new(null, why, Possible: false);
}
