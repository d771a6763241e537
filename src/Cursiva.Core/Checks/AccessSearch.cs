using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Checks;

/// <summary>
/// Looks for the smallest change of a job with which a refused identity gets in: one way after another, one identity at a time, within
/// a bound that is told beforehand, and never a way that could lock an account or spend a token.
/// </summary>
public sealed class AccessSearch(Job job, SignInServices services, IAccessSearchWatch watch)
{
    private static readonly string[] s_stops =
    [
        "account-locked",
        "too-many-sign-ins",
        "too-many-sign-ins-code",
        "too-many-sign-ins-status",
        "password-expired",
        "second-factor",
        "interaction-wanted",
        "interaction-wanted-code",
    ];

    /// <summary>Tries, for each identity that a live check found refused.</summary>
    /// <returns>The way that got in, by identity.</returns>
    public async Task<IReadOnlyDictionary<string, AccessTrial>> SearchAsync(LiveReport report, CancellationToken cancel)
    {
        var found = new Dictionary<string, AccessTrial>(StringComparer.Ordinal);
        foreach (var line in report.Lines
            .Where(line => line is { Verdict: LiveVerdict.Failed, Refusal: not null, Kind: "identity" or "api" })
            .DistinctBy(line => IdentityOf(line)?.Name))
        {
            if (IdentityOf(line) is not { } identity)
                continue;
            if (WhyNot(identity, line.Refusal!) is { } why)
                watch.NotTried(identity.Name, why);
            else if (await TryAsync(identity, line, cancel) is { } way)
                found[identity.Name] = way;
        }

        return found;
    }

    private async Task<AccessTrial?> TryAsync(DeclaredIdentity identity, LiveLine line, CancellationToken cancel)
    {
        var api = line.Kind == "api"
            ? job.Apis[line.Name]
            : job.Apis.Values.FirstOrDefault(api => api.Identity == identity.Name && api.Probe is not null);
        var trials = line.Kind == "api" ? AccessTrials.ToBeLetIn(identity, api!) : AccessTrials.ToSignIn(identity);
        watch.Begins(identity.Name, trials.Count, (identity.TokenEndpoint ?? identity.Issuer!).AbsoluteUri);
        foreach (var trial in trials)
        {
            var refusal = await RefusedAsync(trial, api, cancel);
            watch.Tried(trial, refusal is null ? null : refusal.Quote ?? refusal.What);
            if (refusal is null)
                return trial;
            if (refusal.Status is null || s_stops.Contains(refusal.Diagnosis))
                break;
        }

        return null;
    }

    private async Task<Refusal?> RefusedAsync(AccessTrial trial, Api? api, CancellationToken cancel)
    {
        try
        {
            using var signIns = new SignIns(services);
            await ((TokenSource)signIns.Of(trial.Identity)!).GetFreshAsync(cancel);
            if (api?.Probe is not { } probe)
                return null;
            await using var client = await ApiClients.OpenAsync(api with { Attempts = 1 }, trial.Identity, signIns, services, cancel);
            var request = new ApiRequest(HttpMethod.Get, client.Address(PathTemplate.Expand(probe.Get, job.Inputs, client.TokenFields)));
            using var answer = await client.SendAsync(trial.Accept is { } accept ? request with { Accept = accept } : request, cancel);
            return null;
        }
        catch (RefusedException error)
        {
            return error.Refusal;
        }
    }

    // Where no other way can help, or trying would do harm.
    private static string? WhyNot(DeclaredIdentity identity, Refusal refusal) =>
        !identity.SignsIn ? $"grant {identity.Grant} has no other way"
        : identity.Refreshes ? "a refresh token may be usable only once, so it is not risked"
        : refusal.Status is null ? "nothing was refused: no answer came, or nothing was sent"
        : s_stops.Contains(refusal.Diagnosis) ? $"trying again would make things worse: {refusal.Cause}"
        : Remedies.MayBeTheWay(refusal) ? null
        : $"no other way would help: {refusal.Cause ?? refusal.What}";

    private DeclaredIdentity? IdentityOf(LiveLine line) =>
        line.Kind == "identity" ? job.Identities[line.Name] : job.Apis[line.Name].Identity is { } name ? job.Identities[name] : null;
}
