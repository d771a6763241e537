using System.Globalization;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Http;

/// <summary>The requests and the time that a run may take. What runs out ends the run so that the next start resumes it.</summary>
/// <param name="requests">Most requests; null for any number.</param>
/// <param name="deadline">When the run has to be over; null for never.</param>
public sealed class Budget(long? requests, DateTimeOffset? deadline, TimeProvider clock)
{
    private long _spent;

    /// <summary>No bound on requests or time.</summary>
    public static Budget Unlimited { get; } = new(null, null, TimeProvider.System);

    /// <summary>When the start has to end; null for never.</summary>
    public DateTimeOffset? Deadline => deadline;

    /// <summary>Spends one request.</summary>
    /// <exception cref="RefusedException">There is none left, or the time is over.</exception>
    public void Spend()
    {
        CheckWait(TimeSpan.Zero, "its deadline");
        if (requests is { } most && Interlocked.Increment(ref _spent) > most)
            throw new RefusedException(
                new Refusal(Outcome.StoppedResumable, $"stopped after {most} requests because of --max-requests")
                {
                    NextStep = "run again to resume it",
                });
    }

    /// <summary>Makes sure that a wait ends before the deadline.</summary>
    /// <param name="reason">What is waited for.</param>
    /// <exception cref="RefusedException">It would not.</exception>
    public void CheckWait(TimeSpan wait, string reason)
    {
        if (deadline is not { } end)
            return;
        var left = end - clock.GetUtcNow();
        if (wait < left)
            return;
        var what = wait > TimeSpan.Zero
            ? $"stopped: the wait of {Durations.ForPeople(wait)} for {reason} would pass the deadline, {Durations.ForPeople(left > TimeSpan.Zero ? left : TimeSpan.Zero)} from now"
            : "stopped at its deadline";
        throw new RefusedException(new Refusal(Outcome.StoppedResumable, what)
        {
            NextStep = wait > TimeSpan.FromMinutes(1) ? string.Create(
                CultureInfo.InvariantCulture,
                $"run again after {clock.GetUtcNow() + wait:yyyy-MM-dd HH:mm}Z to resume it") : "run again to resume it",
        });
    }
}
