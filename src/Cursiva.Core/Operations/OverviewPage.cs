using System.Globalization;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;

namespace Cursiva.Core.Operations;

/// <summary>The overview as one HTML file that needs nothing else and asks nobody anything.</summary>
public static class OverviewPage
{
    private const string Style = """
        main { max-width: 78rem; }
        .strip { display: block; }
        .strip .ground { stroke: var(--rule); }
        .strip .good { fill: var(--accent); }
        .strip .bad { fill: var(--note); }
        .state { font-weight: 600; }
        .state.look { color: var(--note); }
        td .small { margin: 0; white-space: normal; font-weight: 400; }
        td.number .small { white-space: nowrap; }

        """;

    /// <summary>The page.</summary>
    public static string Write(JobsLook look)
    {
        var page = new StringBuilder($"""
            <!doctype html>
            <html lang="en">
            <head>
            <meta charset="utf-8">
            <meta name="viewport" content="width=device-width, initial-scale=1">
            <meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
            <title>Overview of {look.Jobs.Count} jobs</title>
            <style>
            {PageStyle.Style}{Style}</style>
            </head>
            <body>
            <main>
            <header><h1>Overview</h1><p>{look.Jobs.Count} {(look.Jobs.Count == 1 ? "job" : "jobs")}, as of {Time(look.At)} UTC. Bars show the rows of each day's last run, for {look.Days} days. Requests are those of 24 hours, with the usage of each declared limit below.</p></header>

            """);
        var told = look.Jobs
            .SelectMany(job => job.Conditions.Select(condition => $"<p><b>{Text(job.Job)}</b> {Text(condition.Words)}</p>"))
            .ToList();
        if (told.Count > 0)
            page.Append($"<div class=\"notes\" role=\"note\">{string.Concat(told)}</div>\n");
        page.Append("<dl class=\"figures\">");
        Figure(page, "Jobs", $"{look.Jobs.Count:N0}", "");
        Figure(page, "Need attention", $"{look.Jobs.Count(job => job.Conditions.Count > 0):N0}", "");
        Figure(
            page,
            "Runs in the last 24 hours",
            $"{look.Jobs.Sum(job => job.History.Count(line => line.StartedAt > look.At.AddDays(-1))):N0}",
            "");
        Figure(page, "On disk", Size(look.Jobs.Sum(job => job.Bytes)), "");
        page.Append("</dl>\n<section><h2>Jobs</h2><div class=\"rows\"><table><thead><tr><th scope=\"col\">Job</th><th scope=\"col\">State</th><th scope=\"col\">Last run (UTC)</th><th scope=\"col\" class=\"number\">Rows</th><th scope=\"col\" class=\"number\">Took</th><th scope=\"col\">Due next (UTC)</th><th scope=\"col\" class=\"number\">Requests</th><th scope=\"col\" class=\"number\">On disk</th><th scope=\"col\">90 days</th></tr></thead><tbody>\n");
        foreach (var job in look.Jobs)
            Row(page, job, look);
        return page.Append(
            "</tbody></table></div></section>\n<footer><p>Made by cursiva overview. This page is self-contained: it loads nothing and sends nothing.</p></footer>\n</main>\n</body>\n</html>\n").ToString();
    }

    private static void Row(StringBuilder page, JobStanding job, JobsLook look)
    {
        var last = job.Last;
        var rows = last is null ? "" : $"{last.Rows:N0}{(job.UsualRows is { } usual ? $"<p class=\"small\">usually {usual:N0}</p>" : "")}";
        var took = last is null
            ? ""
            : $"{Words(last.TookS)}{(job.UsualS is { } usualS ? $"<p class=\"small\">usually {Words(usualS)}</p>" : "")}";
        var schedule = job.Schedule is { } words ? $"<p class=\"small\">{Text(words)}</p>" : "";
        page.Append($"<tr><td>{Text(job.Job)}{(job.Title == job.Job ? "" : $"<p class=\"small\">{Text(job.Title)}</p>")}</td><td class=\"state{(job.Conditions.Count > 0 ? " look" : "")}\">{job.State}{(job.Resumable ? "<p class=\"small\">resumable</p>" : job is { State: "done", Last.Starts: > 1 } ? "<p class=\"small\">resumed</p>" : "")}</td>");
        page.Append($"<td>{(last is null ? "" : $"{Time(last.EndedAt ?? last.StartedAt)}<p class=\"small\">run {last.Run}{(last.Skipped > 0 ? $", {last.Skipped:N0} skipped" : "")}</p>")}</td><td class=\"number\">{rows}</td><td class=\"number\">{took}</td>");
        var limits = string.Concat(job.Limits.Select(limit => $"<p class=\"small\">{limit.Taken:N0} of {Text(limit.Limit)}</p>"));
        page.Append($"<td>{(job.NextDue is { } due ? Time(due) : "")}{schedule}</td>");
        page.Append($"<td class=\"number\">{job.RequestsInDay:N0}<p class=\"small\">{job.RequestsInHour:N0} in the last hour</p>{limits}</td>");
        page.Append($"<td class=\"number\">{Size(job.Bytes)}</td><td>{HistoryChart.Draw(job.History, look.At, look.Days)}</td></tr>\n");
    }

    private static void Figure(StringBuilder page, string title, string value, string below) =>
        page.Append($"<div class=\"figure\"><dt>{title}</dt><dd class=\"value\">{value}</dd>{(below.Length > 0 ? $"<dd class=\"change\">{below}</dd>" : "")}</div>\n");

    private static string Words(double seconds) => Durations.ForPeople(TimeSpan.FromSeconds(seconds));

    private static string Time(DateTimeOffset time) => time.UtcDateTime.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture);

    private static string Size(long bytes) =>
        bytes < 1_000_000
            ? $"{bytes / 1000.0:0.0} kB"
            : bytes < 1_000_000_000 ? $"{bytes / 1_000_000.0:0.0} MB" : $"{bytes / 1_000_000_000.0:0.00} GB";

    private static string Text(string text) => HtmlText.Escape(text);
}
