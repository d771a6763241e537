using System.Text.Json;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Checks;

/// <summary>Asks one API by its probe: with the identity, and once without, to find out whether the token matters at all.</summary>
internal sealed class ApiProbe(Job job, Api api, SignInServices services)
{
    private const int NotFound = 404;

    public async Task<IReadOnlyList<LiveLine>> LookAsync(SignIns signIns, CancellationToken cancel)
    {
        var keys = await new ExchangeProbe("api", api.Name, services, api.Trust).EndsAsync(
            ExchangeProbe.KeysOf(api.Encryption, api.Signatures), cancel);
        return keys.Any(key => key.Verdict == LiveVerdict.Failed) ? keys : [.. keys, .. await AskAsync(signIns, cancel)];
    }

    private async Task<IReadOnlyList<LiveLine>> AskAsync(SignIns signIns, CancellationToken cancel)
    {
        if (api.Probe is not { } probe)
            return [Line(
                LiveVerdict.Notice,
                "it has no probe:, so whether the API accepts the identity was not checked",
                "declare one cheap request: probe: { get: /me }")];

        var identity = api.Identity is null ? null : job.Identities[api.Identity];
        var once = api with { Attempts = Math.Min(api.Attempts, 2) };
        var path = probe.Get;
        var lines = new List<LiveLine>();
        try
        {
            await using var client = await ApiClients.OpenAsync(once, identity, signIns, services, cancel);
            (once, path) = (client.Api, PathTemplate.Expand(probe.Get, job.Inputs, client.TokenFields));
            using var answer = await client.GetAsync(client.Address(path), cancel);
            lines.AddRange(Required(probe, answer));
            if (api.Encryption is { Cipher: not Ciphers.None } encryption)
                lines.Add(new LiveLine("api", api.Name, "answer", LiveVerdict.Ok, $"encrypted with {encryption.Cipher}, and decrypted"));
            if (api.Signatures?.Answers is { } signed)
                lines.Add(
                    new LiveLine(
                        "api",
                        api.Name,
                        "signature",
                        answer.VerifiedBy is null ? LiveVerdict.Failed : LiveVerdict.Ok,
                        answer.VerifiedBy is { } by
                            ? $"verifies ({signed.Form}), by {by}"
                            : "does not verify, and is kept anyway: when-unverified: report"));
            if (identity is { Grant: not Grants.None }
                && api.Encryption is null
                && lines.TrueForAll(line => line.Verdict == LiveVerdict.Ok))
                lines.Add(await WithoutTokenAsync(once, signIns, path, answer, cancel));
        }
        catch (RefusedException error)
        {
            lines.Add(LiveLine.Of("api", api.Name, "probe", error.Refusal));
            if (error.Refusal.Status == NotFound && identity is { Grant: not Grants.None })
                lines.Add(await NotFoundWithoutTokenAsync(once, signIns, path, error.Refusal, cancel));
        }

        return lines;
    }

    private IEnumerable<LiveLine> Required(Probe probe, Answer answer)
    {
        JsonElement? json = null;
        try
        {
            using var document = JsonDocument.Parse(answer.Body.Content.ToArray());
            json = document.RootElement.Clone();
        }
        catch (JsonException)
        {
            // Told below, where something is required of it.
        }

        var missing = probe.Require.Where(required => !Holds(required.Key, required.Value, json)).ToList();
        if (missing.Count == 0)
        {
            var also = probe.Require.Count == 0
                ? ""
                : $", with {string.Join(", ", probe.Require.Select(required => required.Key + (required.Value == Probe.Anything ? "" : " " + required.Value)))}";
            return [Line(LiveVerdict.Ok, $"GET {probe.Get} answered with status {answer.Status}{also}")];
        }

        return missing.Select(required => Line(
            LiveVerdict.Failed,
            $"GET {probe.Get} answered with status {answer.Status}, and its {required.Key} is {(json is { } root && required.Key.Find(root) is { } found ? found.GetRawText() : "missing")}, where {(required.Value == Probe.Anything ? "something" : required.Value)} is required",
            "compare require: of the probe with the answer; if require: is right, the API takes the identity for somebody else"));
    }

    private async Task<LiveLine> WithoutTokenAsync(Api once, SignIns signIns, string path, Answer withToken, CancellationToken cancel)
    {
        try
        {
            await using var client = await ApiClients.OpenAsync(once with { Attempts = 1 }, null, signIns, services, cancel);
            using var answer = await client.GetAsync(client.Address(path), cancel);
            return answer.Body.Content.SequenceEqual(withToken.Body.Content)
                ? new LiveLine(
                    "api",
                    api.Name,
                    "anonymous",
                    LiveVerdict.Notice,
                    "the API answers the same without a token: the probe shows nothing about the identity",
                    "choose a probe: that only this identity can see")
                : new LiveLine("api", api.Name, "anonymous", LiveVerdict.Ok, "without a token the answer is different");
        }
        catch (RefusedException error)
        {
            return new LiveLine(
                "api",
                api.Name,
                "anonymous",
                LiveVerdict.Ok,
                error.Refusal.What.Contains("status", StringComparison.Ordinal)
                    ? "without a token it refuses, as it should"
                    : "without a token it gives no answer");
        }
    }

    // Nothing found is no sign of being let in: many APIs say so to everybody, and some where a permission is missing.
    private async Task<LiveLine> NotFoundWithoutTokenAsync(
        Api once, SignIns signIns, string path, Refusal withToken, CancellationToken cancel)
    {
        try
        {
            await using var client = await ApiClients.OpenAsync(once with { Attempts = 1 }, null, signIns, services, cancel);
            using var answer = await client.GetAsync(client.Address(path), cancel);
            return new LiveLine(
                "api",
                api.Name,
                "anonymous",
                LiveVerdict.Notice,
                $"without a token the path exists (status {answer.Status}): the API hides it from this identity",
                "ask for the identity to be granted what the path requires");
        }
        catch (RefusedException error) when (error.Refusal.Status == NotFound)
        {
            return error.Refusal.Quote == withToken.Quote
                ? new LiveLine(
                    "api",
                    api.Name,
                    "anonymous",
                    LiveVerdict.Notice,
                    "without a token the answer is the same, so it does not show whether the API accepts the identity",
                    "correct the path first: get: of the probe, and base:")
                : new LiveLine(
                    "api",
                    api.Name,
                    "anonymous",
                    LiveVerdict.Notice,
                    "without a token nothing is found either, with a different message",
                    "correct the path first: get: of the probe, and base:");
        }
        catch (RefusedException error) when (error.Refusal.Status is 401 or 403)
        {
            return new LiveLine(
                "api",
                api.Name,
                "anonymous",
                LiveVerdict.Ok,
                $"without a token it refuses (status {error.Refusal.Status}): the API accepts the identity, but the path is missing or hidden from it");
        }
        catch (RefusedException)
        {
            return new LiveLine("api", api.Name, "anonymous", LiveVerdict.Notice, "without a token there is no answer to compare with");
        }
    }

    private static bool Holds(JsonPointer place, string value, JsonElement? json) =>
        json is { } root
        && place.Find(root) is { } found
        && (value == Probe.Anything || (found.ValueKind == JsonValueKind.String ? found.GetString() : found.GetRawText()) == value);

    private LiveLine Line(LiveVerdict state, string says, string? next = null) => new("api", api.Name, "probe", state, says, next);
}
