namespace Cursiva.Core.Operations;

/// <summary>How all jobs stand, for a monitor, in the text format of OpenMetrics 1.0.</summary>
public static class OverviewNumbers
{
    /// <summary>The numbers, ended by <c># EOF</c>.</summary>
    public static string Write(JobsLook look)
    {
        var text = new OpenMetricsText();
        IEnumerable<(string, double)> Of(Func<JobStanding, double?> value) =>
            look.Jobs.Select(job => (Name(job), value(job))).Where(sample => sample.Item2 is not null).Select(sample => (sample.Item1, sample.Item2!.Value));
        text.Gauge("cursiva_job_conditions", null, "things of a job that somebody has to look at; 0 is well", Of(job => job.Conditions.Count));
        text.Gauge("cursiva_job_late", null, "1 where a job is late", Of(job => job.Conditions.Any(condition => condition.Key == "late") ? 1 : 0));
        text.Gauge("cursiva_job_last_good_timestamp_seconds", "seconds", "when the last good run ended", Of(job => job.LastGood?.ToUnixTimeSeconds()));
        text.Gauge("cursiva_job_next_due_timestamp_seconds", "seconds", "when a job is due next", Of(job => job.NextDue?.ToUnixTimeSeconds()));
        text.Gauge("cursiva_job_pending", null, "deliveries and writes that have not left", Of(job => job.Pending));
        text.Gauge("cursiva_job_in_doubt", null, "deliveries and writes that may have left or not", Of(job => job.InDoubt));
        text.Gauge("cursiva_job_disk_bytes", "bytes", "what a job takes on disk", Of(job => job.Bytes));
        text.Gauge("cursiva_job_ends_in_days", "days", "days until something ends that a job needs, within 30 days; negative once it has", look.Jobs.SelectMany(job => job.Expiries.Select(expiry => ($"{Name(job)},{OpenMetricsText.Label("kind", expiry.Kind)},{OpenMetricsText.Label("of", expiry.Of)}", Math.Round((expiry.At - look.At).TotalDays, 2)))));
        text.Gauge("cursiva_job_limit_used_ratio", "ratio", "share of a declared limit that is in use", look.Jobs.SelectMany(job => job.Limits.Select(limit => ($"{Name(job)},{OpenMetricsText.Label("api", limit.Api)},{OpenMetricsText.Label("limit", limit.Limit)}", (double)limit.Taken / limit.Of))));
        return text.End();
    }

    private static string Name(JobStanding job) => OpenMetricsText.Label("job", job.Job);
}
