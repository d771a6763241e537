using Cursiva.Core.Jobs;

namespace Cursiva.Core.Operations;

/// <summary>Tells whether a job is late.</summary>
internal static class DueTimes
{
    /// <summary>Since when a run should have been done; null where the job is not late.</summary>
    /// <param name="isSince">Whether a good run ended after a time.</param>
    /// <param name="known">Since when the job is there: earlier times do not count.</param>
    public static DateTimeOffset? LateSince(Schedule schedule, Func<DateTimeOffset, bool> isSince, DateTimeOffset known, DateTimeOffset now)
    {
        if (schedule.UpTo(now - schedule.LateAfter) is not { } due || due < known)
            return null;

        // By a deadline, a run since the one before will do; of a start, one that ended after it.
        var from = schedule.IsDeadline ? schedule.UpTo(due.AddTicks(-1)) ?? DateTimeOffset.MinValue : due;
        return isSince(from) ? null : due;
    }
}
