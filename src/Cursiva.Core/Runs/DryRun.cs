using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>Tells which requests a run would make first, and how long it would take; lands nothing.</summary>
public sealed class DryRun(Job job, SignInServices services, JobFolder folder)
{
    /// <summary>Looks ahead.</summary>
    /// <exception cref="RefusedException">A secret is missing, or the one request that was needed was refused.</exception>
    public async Task<DryRunAccount> LookAsync(CancellationToken cancel)
    {
        var runs = await new RunStore(services.State, folder).ListAsync(cancel);
        var last = runs.LastOrDefault(run => run.Phase == RunPhase.Done);
        using var signIns = new SignIns(services);
        await using var clients = new ApiClients(job, signIns, services);
        var pulls = new List<DryRunPull>();
        foreach (var pull in job.Pulls)
            pulls.Add(await LookAsync(pull, clients, last, cancel));

        return new DryRunAccount(
            pulls,
            last is null ? null : new DryRunEstimate($"run {last.Number}", last.Requests, Longer(last.Took, Least(last.Requests))),
            last is null ? Estimate(pulls) : null);
    }

    private async Task<DryRunPull> LookAsync(Pull pull, ApiClients clients, RunRecord? last, CancellationToken cancel)
    {
        var inputs = job.Inputs.ToDictionary(input => input.Name, input => input.Value, StringComparer.Ordinal);
        if (pull.Per is not null || pull.Window is not null || job.Strands.Apis.ContainsKey(pull.Api))
            return new DryRunPull(
                pull.Name,
                $"{pull.Request.Method} {pull.Request.Path}",
                pull.Per is null
                    ? pull.Window is null ? null : $"for each of {pull.Window.Count:N0} windows"
                    : $"for each of {pull.Per.Pull ?? pull.Per.File ?? pull.Per.Name}",
                null,
                TimeSpan.Zero);

        var kept = last?.Marks.GetValueOrDefault(pull.Name)?.GetValueOrDefault("{}");
        var mark = pull.Incremental is { } incremental ? (kept is null ? incremental.First : Marks.From(kept, incremental.Overlap)) : null;
        var client = await clients.OfAsync(pull, _ => null, cancel);
        var requests = await StrandRequests.OpenAsync(
            pull,
            client,
            inputs,
            Strand.Only,
            mark,
            pull.Paging.Delta is null ? null : kept,
            services.Secrets,
            new DocumentSchemas(services.Folder),
            cancel);
        var first = requests.At((ListingStyle.Of(pull.Paging) as Pager)?.First);
        var asked = $"{first.Method} {ShownAddress.Of(first.Uri)}";
        // What a POST does nobody knows from here: it is told and not sent.
        if (first.Method != HttpMethod.Get
            || last is not null
            || ListingStyle.Of(pull.Paging) is not Pager
            || (pull.Paging.Total is null && pull.Paging.Pages is null))
            return new DryRunPull(pull.Name, asked, null, null, TimeSpan.Zero);

        // No run to go by: the first page tells how many there are.
        using var answer = await client.SendAsync(first, cancel);
        using var scanner = new PageScanner(new PageShape(pull.Rows, pull.Drop, pull.Paging));
        var scan = scanner.Scan(answer.Body);
        var pages = scan.Pages ?? (scan.Total is { } total && scan.Rows > 0 ? (total + scan.Rows - 1) / scan.Rows : 1);
        return new DryRunPull(pull.Name, asked, null, pages, answer.Took);
    }

    private DryRunEstimate? Estimate(List<DryRunPull> pulls)
    {
        var known = pulls.Where(pull => pull.Pages is not null).ToList();
        if (known.Count == 0)
            return null;
        var requests = known.Sum(pull => pull.Pages!.Value);
        return new DryRunEstimate(
            "one request", requests, Longer(TimeSpan.FromTicks(known.Sum(pull => pull.Took.Ticks * pull.Pages!.Value)), Least(requests)));
    }

    // What the declared limits allow at most.
    private TimeSpan Least(long requests)
    {
        var least = TimeSpan.Zero;
        foreach (var rate in job.Pulls.Select(pull => job.Apis[pull.Api]).Distinct().SelectMany(api => api.Limits.Kept))
            least = Longer(least, rate.Window * ((requests - 1) / rate.Count));
        return least;
    }

    private static TimeSpan Longer(TimeSpan one, TimeSpan other) => one > other ? one : other;
}
