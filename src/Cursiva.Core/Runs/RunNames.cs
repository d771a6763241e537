using System.Globalization;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Runs;

/// <summary>The names that a run gives to templates.</summary>
internal static class RunNames
{
    /// <summary>Values of <see cref="Job.RunNames"/>: the day on which the run began, in the job's zone, and its number.</summary>
    public static Func<string, string?> Of(Job job, RunRecord run) => name => name switch
    {
        "run.date" => TimeZoneInfo.ConvertTime(run.StartedAt, job.Zone).ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
        "run.number" => run.Number.ToString(CultureInfo.InvariantCulture),
        _ => null,
    };
}
