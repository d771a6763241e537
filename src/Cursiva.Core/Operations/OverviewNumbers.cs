namespace Cursiva.Core.Operations;

/// <summary>How all jobs stand, for a monitor: few names, which stay as they are.</summary>
public static class OverviewNumbers
{
    /// <summary>The numbers.</summary>
    public static IReadOnlyList<Gauge> Of(JobsLook look)
    {
        Gauge ByJob(string name, string? unit, string help, Func<JobStanding, double?> value) => new(name, unit, help,
            [.. look.Jobs.Select(job => (job.Job, Value: value(job))).Where(sample => sample.Value is not null).Select(
                sample => GaugeSample.Of(sample.Job, sample.Value!.Value))]);
        return
        [
            ByJob("cursiva_job_conditions", null, "conditions of a job that need attention; 0 means none", job => job.Conditions.Count),
            ByJob(
                "cursiva_job_late", null, "1 if a job is late", job => job.Conditions.Any(condition => condition.Key == "late") ? 1 : 0),
            ByJob(
                "cursiva_job_last_good_timestamp_seconds",
                "seconds",
                "when the last good run ended",
                job => job.LastGood?.ToUnixTimeSeconds()),
            ByJob("cursiva_job_next_due_timestamp_seconds", "seconds", "when a job is due next", job => job.NextDue?.ToUnixTimeSeconds()),
            ByJob("cursiva_job_pending", null, "deliveries and writes that have not been sent", job => job.Pending),
            ByJob("cursiva_job_in_doubt", null, "deliveries and writes that may have been sent", job => job.InDoubt),
            ByJob("cursiva_job_disk_bytes", "bytes", "disk usage of a job", job => job.Bytes),
            new("cursiva_job_ends_in_days", "days", "days until something that a job needs expires, within 30 days; negative afterwards",
                [.. look.Jobs.SelectMany(
                    job => job.Expiries.Select(
                        expiry => GaugeSample.Of(
                            job.Job, Math.Round((expiry.At - look.At).TotalDays, 2), ("kind", expiry.Kind), ("of", expiry.Of))))]),
            new("cursiva_job_limit_used_ratio", "ratio", "share of a declared limit that is in use",
                [.. look.Jobs.SelectMany(
                    job => job.Limits.Select(
                        limit => GaugeSample.Of(job.Job, (double)limit.Taken / limit.Of, ("api", limit.Api), ("limit", limit.Limit))))]),
        ];
    }
}
