using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Checks;

/// <summary>
/// Signs in as every identity of a job, calls every API once, and fetches the first pages of its pulls, to see whether a run would
/// succeed and find its rows.
/// </summary>
public sealed class LiveCheck(Job job, SignInServices services)
{
    private static readonly TimeSpan s_between = TimeSpan.FromSeconds(10);

    /// <summary>
    /// Looks once, or again and again until everything is good, the time is up, or something is bad that no waiting mends.
    /// </summary>
    /// <param name="wait">How long it is tried, while a fresh consent or permission spreads.</param>
    /// <param name="again">Is told of each round that found something bad, and how long is left.</param>
    public async Task<LiveReport> CheckAsync(TimeSpan wait, Action<LiveReport, TimeSpan> again, CancellationToken cancel)
    {
        var end = services.Clock.GetUtcNow() + wait;
        while (true)
        {
            var report = await OnceAsync(cancel);
            var left = end - services.Clock.GetUtcNow();
            if (report.Outcome == Refusals.Outcome.Done || left <= TimeSpan.Zero || !report.MayPass)
                return report;
            again(report, left);
            await Task.Delay(left < s_between ? left : s_between, services.Clock, cancel);
        }
    }

    private async Task<LiveReport> OnceAsync(CancellationToken cancel)
    {
        using var signIns = new SignIns(services);
        var lines = new List<LiveLine>();
        var letIn = new HashSet<string>(StringComparer.Ordinal);
        foreach (var identity in job.Identities.Values)
        {
            if (job.Strands.Identities.ContainsKey(identity.Name))
            {
                lines.Add(
                    new LiveLine(
                        "identity",
                        identity.Name,
                        "token",
                        LiveVerdict.Notice,
                        $"not checked, since it is filled in for each strand ({string.Join(", ", job.Strands.Names)})",
                        $"try one: cursiva token get JOB {identity.Name} --value {job.Strands.Names.First()}=..."));
                continue;
            }

            List<LiveLine> found = [.. await new IdentityProbe(identity, services).LookAsync(signIns, cancel)];
            lines.AddRange(found);
            if (found.TrueForAll(line => line.Step != "token" || line.Verdict != LiveVerdict.Failed))
                letIn.Add(identity.Name);
        }

        foreach (var api in job.Apis.Values)
        {
            if (job.Strands.Apis.ContainsKey(api.Name) || (api.Identity is not null && job.Strands.Identities.ContainsKey(api.Identity)))
                lines.Add(new LiveLine("api", api.Name, "probe", LiveVerdict.Notice, "not checked, since it is filled in for each strand"));
            else if (api.Identity is null || letIn.Contains(api.Identity))
                lines.AddRange(await new ApiProbe(job, api, services).LookAsync(signIns, cancel));
            else
                lines.Add(
                    new LiveLine(
                        "api", api.Name, "probe", LiveVerdict.Notice, $"not checked, since identity '{api.Identity}' could not sign in"));
        }

        // What was not let in, or is not there, would only be refused once more.
        var refused = lines.Where(line => line.Verdict == LiveVerdict.Failed).Select(line => line.Name).ToHashSet(StringComparer.Ordinal);
        await using var clients = new ApiClients(job, signIns, services);
        foreach (var pull in job.Pulls.Where(
            pull => PullProbe.CanAsk(job, pull)
                && !refused.Contains(pull.Api)
                && ((pull.Identity ?? job.Apis[pull.Api].Identity) is not { } identity || letIn.Contains(identity))))
            lines.AddRange(await new PullProbe(job, pull, services).LookAsync(clients, cancel));
        return LiveReport.Of(job, lines);
    }
}
