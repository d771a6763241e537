using Cursiva.Core.Apis;
using Cursiva.Core.Jobs;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Checks;

/// <summary>What a job would do, in short.</summary>
public sealed record JobAccount(
    string Title,
    string File,
    IReadOnlyList<JobAccount.InputLine> Inputs,
    IReadOnlyList<JobAccount.Line> SignsIn,
    IReadOnlyList<JobAccount.Line> Asks,
    IReadOnlyList<JobAccount.Line> Pulls,
    IReadOnlyList<JobAccount.Line> Writes,
    IReadOnlyList<string> Warnings)
{
    /// <summary>An input, its value and where that came from.</summary>
    public sealed record InputLine(string Name, string Value, string From);

    /// <summary>A named thing and what is to be said of it.</summary>
    public sealed record Line(string Name, string What);

    public static JobAccount Of(Job job, Func<string, string?> environment) => new(
        job.Title,
        job.Path,
        [.. job.Inputs.Select(input => new InputLine(input.Name, input.Value, input.From))],
        [.. job.Identities.Values.Select(identity => new Line(identity.Name, IdentityAccount.Describe(identity)))],
        [.. job.Apis.Values.Select(api => new Line(api.Name, Describe(api)))],
        [.. job.Pulls.Select(pull => new Line(pull.Name, Describe(job, pull)))],
        [.. job.Reports.Select(report => new Line(report.Name, string.Join(", ", report.Write.Select(file => Path.Combine(job.Out.Text, file.Text)))))],
        [.. Warn(job, EnvironmentFile.Over(environment, job.EnvFile))]);

    private static string Describe(Api api)
    {
        var kept = api.Limits.Kept.Count == 0 ? "no limit declared" : "at most " + string.Join(" and ", api.Limits.Kept) + (api.Limits.Share < 1 ? $" ({api.Limits.Share * 100:0.#}% of what is allowed)" : "");
        return $"{api.Base} as {api.Identity ?? "nobody"}, {kept}";
    }

    private static string Describe(Job job, Pull pull)
    {
        var address = ApiAddress.Of(job.Apis[pull.Api], PathTemplate.Expand(pull.Get, job.Inputs)).AbsoluteUri;
        var paging = pull.Paging switch
        {
            { NextLink: { } link } => $"next link at {link}",
            { Cursor: { } cursor } => $"cursor at {cursor} sent back as {pull.Paging.Parameter}",
            _ => "one page",
        };
        var columns = pull.Columns.Count == 0 ? "columns found from the rows" : $"{pull.Columns.Count} declared columns";
        return $"GET {address}, {paging}, {columns}";
    }

    private static IEnumerable<string> Warn(Job job, Func<string, string?> environment)
    {
        foreach (var warning in job.Identities.Values.SelectMany(identity => IdentityAccount.Warn(identity, job.Folder, environment)))
            yield return warning;

        if (job.Reports.Count == 0)
            yield return "the job writes no report; its rows are landed only";
    }
}
