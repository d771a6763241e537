using Cursiva.Core.Apis;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Checks;

/// <summary>What a job would do, in short.</summary>
public sealed record JobAccount(
    string Title,
    string File,
    IReadOnlyList<JobAccount.InputLine> Inputs,
    IReadOnlyList<JobAccount.Line> SignsIn,
    IReadOnlyList<JobAccount.Line> Calls,
    IReadOnlyList<JobAccount.Line> Pulls,
    IReadOnlyList<JobAccount.Line> Reports,
    IReadOnlyList<JobAccount.Line> Writes,
    IReadOnlyList<JobAccount.Line> Delivers,
    IReadOnlyList<JobAccount.Line> Runs,
    IReadOnlyList<string> Warnings)
{
    /// <summary>An input, its value and where that came from.</summary>
    public sealed record InputLine(string Name, string Value, string From);

    /// <summary>A named thing and what is to be said of it.</summary>
    public sealed record Line(string Name, string What);

    /// <summary>What a job is made of and where its values come from, for <c>check</c>.</summary>
    public static JobAccount Of(Job job, Func<string, string?> environment) => new(
        job.Title,
        job.Path,
        [.. job.Inputs.Select(input => new InputLine(input.Name, input.Value, input.From))],
        [.. job.Identities.Values.Select(identity => new Line(identity.Name, IdentityAccount.Describe(identity)))],
        [.. job.Apis.Values.Select(api => new Line(api.Name, Describe(api)))],
        [.. job.Pulls.Select(pull => new Line(pull.Name, Describe(job, pull)))],
        [.. job.Reports.Select(report => new Line(report.Name, Describe(job, report)))],
        [.. job.Writes.Select(write => new Line(write.Name, Describe(job, write)))],
        [.. job.Deliveries.Select(delivery => new Line(delivery.Name, Describe(delivery)))],
        [.. When(job)],
        [.. Warn(job, environment)]);

    private static IEnumerable<Line> When(Job job)
    {
        if (job.Schedule is { } schedule)
        {
            var late = Durations.ForPeople(schedule.LateAfter);
            yield return new Line("schedule", $"{schedule.Words} ({schedule.Zone.Id}), late after {late}");
        }

        if (job.Expected is { } expected)
            yield return new Line("expected", $"{expected.Words} ({expected.Zone.Id})");
    }

    private static string Describe(Api api)
    {
        var kept = api.Limits.Kept.Count == 0
            ? "no limit declared"
            : "at most " + string.Join(" and ", api.Limits.Kept) + (
                api.Limits.Share < 1 ? $" ({api.Limits.Share * 100:0.#}% of what is allowed)" : "");
        return string.Join(", ", [$"{api.ShownBase} as {api.Identity ?? "nobody"}", kept, .. Exchange(api.Encryption, api.Signatures)]);
    }

    private static IEnumerable<string> Exchange(BodyEncryption? encryption, Signatures? signatures) =>
        new[] { ExchangeWords.Of(encryption) }.OfType<string>().Concat(ExchangeWords.Of(signatures));

    private static string Describe(Job job, Pull pull)
    {
        var path = pull.Request.IsLink ? pull.Request.Path : Address(job, pull);
        var paging = ListingStyle.Of(pull.Paging).Words(pull);
        var per = pull.Per is { } repeated
            ? $"for each {(repeated.Batch > 1 ? $"{repeated.Batch} " : "")}of {repeated.Pull ?? repeated.File ?? repeated.Name}, {pull.Parallel} at a time, "
            : "";
        var window = pull.Window is { } windows
            ? $"in {windows.Count:N0} windows from {RelativeTime.Write(windows.From)} to {RelativeTime.Write(windows.To)}{(windows.AtMost is { } most ? $", halved where there are {most:N0} rows" : "")}, "
            : "";
        var columns = pull.Columns.Count == 0 ? "columns derived from the rows" : $"{pull.Columns.Count} declared columns";
        return string.Join(
            ", ",
            [
                $"{per}{window}{pull.Request.Method} {path}",
                paging,
                columns,
                .. Exchange(pull.Encryption, pull.Signatures),
                .. Schemas(pull),
            ]);
    }

    private static IEnumerable<string> Schemas(Pull pull)
    {
        if (pull.BodySchema is { } ofBody)
            yield return $"each body must match {ofBody}";
        if (pull.Schema is { } ofRows)
            yield return $"each row must match {ofRows}";
    }

    private static string Describe(Job job, Report report)
    {
        var parts = report.Parts.Count == 1
            ? ""
            : $" ({string.Join(", ", report.Parts.GroupBy(part => part.IsChart ? "chart" : part.Kind.ToString().ToLowerInvariant()).Select(group => $"{group.Count()} {group.Key}{(group.Count() == 1 || group.Key == "text" ? "" : "s")}"))})";
        var required = report.Parts.Any(part => part.Require.Any) ? ", if its requirements hold" : "";
        return $"{string.Join(", ", report.Files.Select(file => Path.Combine(job.Out.Text, file.Path.Text)))}{parts}{(report.FilePer is { } column ? $", one for each {column}" : "")}{required}";
    }

    private static string Describe(Job job, Write write)
    {
        var steps = string.Join(
            ", ",
            write.Steps.Select(
                step => $"{(step.When is { } when ? $"if {when.Look} {(when.Found ? "found something" : "found nothing")}: " : "")}{step.Method.ToString().ToUpperInvariant()} {step.Path}"));
        string?[] rest =
        [
            write.OnlyIfChanged ? "only what has changed" : null,
            write.MostChanges is { } most ? $"at most {most} changes" : null,
            write.Remove.Count > 0
                ? $"removing deleted items with {write.Remove[^1].Method.ToString().ToUpperInvariant()} {write.Remove[^1].Path}"
                : null,
            write.RepeatsInDoubt ? "sent again if in doubt" : null,
            write.Require.Count > 0 ? $"where {string.Join(" and ", write.Require.Select(required => required.Name))}" : null,
            .. Exchange(write.Encryption, write.Signatures),
            .. write.Steps.Concat(write.Remove).SelectMany(
                step => Exchange(step.Encryption, step.Signatures).Select(words => $"step '{step.Name}': {words}")),
        ];
        return string.Join(
            ", ",
            new[] { $"for each {string.Join(" and ", write.Key)} at {write.Api}{(job.Strands.Apis.ContainsKey(write.Api) ? ", which differs from item to item" : "")}: {steps}" }.Concat(
                rest.OfType<string>()));
    }

    private static string Describe(Delivery delivery)
    {
        var what = delivery.When == DeliveryTime.Failed
            ? "how a run failed"
            : delivery.When == DeliveryTime.Late
                ? "what overview --late finds"
                : delivery.Reports.Count > 0 ? string.Join(", ", delivery.Reports) + (
            delivery.IsPerFile ? ", each file separately" : "") : delivery.Way is TableWay ? "rows" : "news of the run";
        var when = delivery.When switch
        {
            DeliveryTime.Always => "after every run",
            DeliveryTime.Rows => "if there are rows",
            DeliveryTime.Changed => "if the rows have changed",
            DeliveryTime.Failed => "as soon as it is found",
            DeliveryTime.Late => "once, and once more when it is over",
        };
        var way = delivery.Way.Of(new DeliveryWords());
        return $"{what}, {way}, {when}{(delivery.RepeatsInDoubt ? ", sent again if in doubt" : "")}";
    }

    // What strands fill in stays as it is written.
    private static string Address(Job job, Pull pull)
    {
        if (job.Strands.Apis.ContainsKey(pull.Api))
            return pull.Request.Path;
        var api = job.Apis[pull.Api];
        if (api.TokenBase is not null || pull.Request.Path.Contains("{token/", StringComparison.Ordinal))
            return api.ShownBase.TrimEnd('/') + "/" + pull.Request.Path.TrimStart('/');
        if (pull.Repeats
            || pull.Incremental is not null
            || pull.Paging.Targets.Any(target => target.Kind == PositionTargetKind.Placeholder))
            return api.Base.AbsoluteUri.TrimEnd('/') + "/" + pull.Request.Path.TrimStart('/');
        return ApiAddress.Of(api, PathTemplate.Expand(pull.Request.Path, job.Inputs)).AbsoluteUri;
    }

    private static IEnumerable<string> Warn(Job job, Func<string, string?> environment)
    {
        var warnings = new List<string>();
        environment = EnvironmentFile.Over(environment, job.EnvFile, warnings.Add);
        foreach (var warning in warnings)
            yield return warning;
        foreach (var warning in job.Identities.Values.SelectMany(identity => IdentityAccount.Warn(identity, job.Folder, environment)))
            yield return warning;

        foreach (var (owner, key) in Keys(job))
        {
            if (key.Source is { Kind: SecretSource.File } file && !System.IO.File.Exists(Path.Combine(job.Folder, file.Name)))
                yield return $"the key file {Path.Combine(job.Folder, file.Name)} of {owner} does not exist; a run would need it";
            if (key.Source is { Kind: SecretSource.Environment } variable && string.IsNullOrEmpty(environment(variable.Name)))
                yield return $"the environment variable {variable.Name}, a key of {owner}, is not set here; a run would need it";
        }

        if (job.Reports.Count == 0)
            yield return "the job writes no report; it only lands rows";
    }

    private static IEnumerable<(string Owner, KeySource Key)> Keys(Job job) =>
    [
        .. job.Apis.Values.SelectMany(api => Keys($"api '{api.Name}'", api.Encryption, api.Signatures)),
        .. job.Pulls.SelectMany(pull => Keys($"pull '{pull.Name}'", pull.Encryption, pull.Signatures)),
        .. job.Writes.SelectMany(write => Keys($"write '{write.Name}'", write.Encryption, write.Signatures)),
        .. job.Writes.SelectMany(
            write => write.Steps.Concat(write.Remove).SelectMany(
                step => Keys($"step '{step.Name}' of write '{write.Name}'", step.Encryption, step.Signatures))),
    ];

    private static IEnumerable<(string Owner, KeySource Key)> Keys(string owner, BodyEncryption? encryption, Signatures? signatures) =>
        ExchangeProbe.KeysOf(encryption, signatures).Select(used => (owner, used.Key));
}
