using System.Globalization;
using Cursiva.Core.Ledger;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Operations;

/// <summary>The numbers of a run for a monitor: few names, which stay as they are.</summary>
public static class RunNumbers
{
    /// <summary>The numbers of a run.</summary>
    /// <param name="job">The job's name.</param>
    /// <param name="ended">When the run ended.</param>
    public static IReadOnlyList<Gauge> Of(string job, RunSummary summary, DateTimeOffset ended)
    {
        Gauge One(string name, string? unit, string help, double value) => new(name, unit, help, [GaugeSample.Of(job, value)]);
        Gauge ByPull(string name, string help, Func<PullCount, double> value) => new(
            name, null, help, [.. summary.Pulls.Select(pull => GaugeSample.Of(job, value(pull), ("pull", pull.Pull)))]);
        return
        [
            One("cursiva_run_ended_timestamp_seconds", "seconds", "when the last run ended", (double)ended.ToUnixTimeMilliseconds() / 1000),
            One("cursiva_run_exit_code", null, "exit code of the last run; 0 is done", (int)summary.Outcome),
            One("cursiva_run_duration_seconds", "seconds", "time that the last run took", summary.Took.TotalSeconds),
            ByPull("cursiva_run_rows", "rows that a pull has landed in the last run", pull => pull.Rows),
            ByPull("cursiva_run_pages", "pages that a pull has landed in the last run", pull => pull.Pages),
            ByPull("cursiva_run_skips", "strands of a pull that were skipped in the last run", pull => pull.Skips),
            new("cursiva_run_requests", null, "requests of the last run, by the status of their answers; none is a request without a complete answer",
                [.. summary.Statuses.OrderBy(status => status.Key).Select(
                    status => GaugeSample.Of(
                        job, status.Value, ("status", status.Key == 0 ? "none" : status.Key.ToString(CultureInfo.InvariantCulture))))]),
            One("cursiva_run_retries", null, "attempts that were repeated in the last run", summary.Retries),
            One("cursiva_run_wait_seconds", "seconds", "time that the last run waited for limits and pauses", summary.Waited.TotalSeconds),
            new("cursiva_run_stage_seconds", "seconds", "time that a stage of the last run took",
                [.. summary.StagesS.OrderBy(stage => stage.Key, StringComparer.Ordinal).Select(
                    stage => GaugeSample.Of(job, stage.Value, ("stage", stage.Key)))]),
            One("cursiva_run_landed_bytes", "bytes", "size of what the last run landed", summary.LandedBytes),
            new("cursiva_ends_in_days", "days", "days until something that the job needs expires; negative afterwards",
                [.. summary.Expiries.Select(
                    expiry => GaugeSample.Of(
                        job, Math.Round((expiry.At - ended).TotalDays, 2), ("kind", expiry.Kind), ("of", expiry.Of)))]),
            One(
                "cursiva_run_file_bytes",
                "bytes",
                "size of the report files that the last run wrote",
                summary.Files.Sum(file => file.Bytes)),
            new("cursiva_run_deliveries", null, "deliveries and writes that the last run worked on, by their state",
                [.. summary.Deliveries.GroupBy(entry => LedgerWords.Of(entry.Phase)).Select(
                    group => GaugeSample.Of(job, group.Count(), ("state", group.Key)))]),
        ];
    }
}
