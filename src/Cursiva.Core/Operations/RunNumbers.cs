using System.Globalization;
using Cursiva.Core.Ledger;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Operations;

/// <summary>The numbers of a run for a monitor, in the text format of OpenMetrics 1.0: few names, which stay as they are.</summary>
public static class RunNumbers
{
    /// <summary>The media type of the format.</summary>
    public const string MediaType = "application/openmetrics-text; version=1.0.0; charset=utf-8";

    /// <summary>The numbers of a run, ended by <c># EOF</c>.</summary>
    /// <param name="job">The job's name.</param>
    /// <param name="ended">When the run ended.</param>
    public static string Write(string job, RunSummary summary, DateTimeOffset ended)
    {
        var text = new OpenMetricsText();
        var (name, code) = (OpenMetricsText.Label("job", job), (int)summary.Outcome);
        text.Gauge("cursiva_run_ended_timestamp_seconds", "seconds", "when the last run ended", [(name, (double)ended.ToUnixTimeMilliseconds() / 1000)]);
        text.Gauge("cursiva_run_exit_code", null, "exit code of the last run; 0 is done", [(name, code)]);
        text.Gauge("cursiva_run_duration_seconds", "seconds", "time that the last run took", [(name, summary.Took.TotalSeconds)]);
        text.Gauge("cursiva_run_rows", null, "rows that a pull has landed in the last run", summary.Pulls.Select(pull => ($"{name},{OpenMetricsText.Label("pull", pull.Pull)}", (double)pull.Rows)));
        text.Gauge("cursiva_run_pages", null, "pages that a pull has landed in the last run", summary.Pulls.Select(pull => ($"{name},{OpenMetricsText.Label("pull", pull.Pull)}", (double)pull.Pages)));
        text.Gauge("cursiva_run_skips", null, "strands of a pull that were skipped in the last run", summary.Pulls.Select(pull => ($"{name},{OpenMetricsText.Label("pull", pull.Pull)}", (double)pull.Skips)));
        text.Gauge("cursiva_run_requests", null, "requests of the last run, by the status of their answers; none is a request without a whole answer", summary.Statuses.OrderBy(status => status.Key).Select(status => ($"{name},{OpenMetricsText.Label("status", status.Key == 0 ? "none" : status.Key.ToString(CultureInfo.InvariantCulture))}", (double)status.Value)));
        text.Gauge("cursiva_run_retries", null, "attempts that were repeated in the last run", [(name, summary.Retries)]);
        text.Gauge("cursiva_run_wait_seconds", "seconds", "time that the last run waited for limits and pauses", [(name, summary.Waited.TotalSeconds)]);
        text.Gauge("cursiva_run_stage_seconds", "seconds", "time that a stage of the last run took", summary.StagesS.OrderBy(stage => stage.Key, StringComparer.Ordinal).Select(stage => ($"{name},{OpenMetricsText.Label("stage", stage.Key)}", stage.Value)));
        text.Gauge("cursiva_run_landed_bytes", "bytes", "size of what the last run landed", [(name, summary.LandedBytes)]);
        text.Gauge("cursiva_ends_in_days", "days", "days until something ends that the job needs; negative once it has", summary.Expiries.Select(expiry => ($"{name},{OpenMetricsText.Label("kind", expiry.Kind)},{OpenMetricsText.Label("of", expiry.Of)}", Math.Round((expiry.At - ended).TotalDays, 2))));
        text.Gauge("cursiva_run_file_bytes", "bytes", "size of the report files that the last run wrote", [(name, summary.Files.Sum(file => file.Bytes))]);
        text.Gauge("cursiva_run_deliveries", null, "deliveries and writes that the last run worked on, by what came of them", summary.Deliveries.GroupBy(entry => LedgerWords.Of(entry.Phase)).Select(group => ($"{name},{OpenMetricsText.Label("state", group.Key)}", (double)group.Count())));
        return text.End();
    }
}
