using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Drafts;

/// <summary>
/// Says how to sign in at an API that refused a request without credentials: by its challenge, the metadata of the resource that the
/// challenge names (RFC 9728), and those of the authorization server (RFC 8414). No credentials go anywhere.
/// </summary>
public static class SignInAdvice
{
    private const int LargestAnswer = 1024 * 1024;
    private static readonly TimeSpan s_timeout = TimeSpan.FromSeconds(15);

    /// <summary>The refusal, with what signing in would take.</summary>
    /// <param name="challenge">The API's WWW-Authenticate header; null for none.</param>
    /// <param name="api">The API that refused.</param>
    /// <param name="command">The command that asked, without its options.</param>
    public static async Task<Refusal> OfAsync(
        Refusal refusal, string? challenge, Api api, SignInServices services, string command, CancellationToken cancel)
    {
        var wanted = challenge is null ? [] : Challenge.Read(challenge);
        var bearer = wanted.FirstOrDefault(
            one => one.Scheme.Equals("Bearer", StringComparison.OrdinalIgnoreCase)
                || one.Scheme.Equals("DPoP", StringComparison.OrdinalIgnoreCase));
        if (bearer is null && wanted.FirstOrDefault(one => one.Scheme.Equals("Basic", StringComparison.OrdinalIgnoreCase)) is not null)
            return Told(
                refusal,
                "the API requires a name and password (Basic)",
                $"put 'Basic ' and NAME:PASSWORD in base64 into a variable, and add --header-from Authorization=env:NAME to {command}");
        if (bearer is null && wanted.Count == 0)
            return Told(
                refusal,
                "the request was anonymous, and the API does not say how to sign in",
                $"see its documentation: for an API key add --header-from X-Api-Key=env:NAME to {command}, for an application's sign-in --token-endpoint URL --client-id ID --secret env:NAME");
        if (bearer is null)
            return Told(
                refusal,
                $"the API requires {OneLine.Of(wanted[0].Scheme)}",
                $"see its documentation; --header-from NAME=SOURCE sends a fixed header");
        var scope = bearer.Parameters.GetValueOrDefault("scope");
        var (server, scopes) = await ServerAsync(bearer, api, services, cancel);
        var scopeWords = (scope ?? string.Join(' ', scopes)) is { Length: > 0 } names ? $" --scope '{OneLine.Of(names)}'" : "";
        if (server is null)
            return Told(
                refusal,
                "the API requires an access token (Bearer), and does not say who issues it",
                $"ask whoever runs the API for its token endpoint and a client, and add to {command}: --token-endpoint URL --client-id ID --secret env:NAME{scopeWords}; for a token that you already have, use --bearer env:NAME");
        var endpoint = await EndpointAsync(server, services, cancel);
        return Told(
            refusal,
            $"the API requires an access token, which {OneLine.Of(server.AbsoluteUri)} issues{(endpoint is null ? " (its metadata cannot be read)" : "")}",
            $"ask its administrator for a client with access to this API, and add to {command}: --issuer {OneLine.Of(server.AbsoluteUri.TrimEnd('/'))} --client-id ID --secret env:NAME{scopeWords}");
    }

    private static Refusal Told(Refusal refusal, string cause, string next) => refusal with { Cause = cause, NextStep = next, Others = [] };

    // The first authorization server that the resource names; the metadata must be the API's own.
    private static async Task<(Uri? Server, IReadOnlyList<string> Scopes)> ServerAsync(
        Challenge bearer, Api api, SignInServices services, CancellationToken cancel)
    {
        var origin = api.Base;
        var told = bearer.Parameters.GetValueOrDefault("resource_metadata");
        var place = told is null
            ? new Uri($"{origin.GetLeftPart(UriPartial.Authority)}/.well-known/oauth-protected-resource")
            : Uri.TryCreate(
            told, UriKind.Absolute, out var given) ? given : null;
        if (place is null
            || !IsSafe(place)
            || place.Host != origin.Host
            || await ReadAsync(place, api, services, cancel) is not { ValueKind: JsonValueKind.Object } metadata)
            return (null, []);
        var server = Texts(metadata, "authorization_servers")
            .Select(text => Uri.TryCreate(text, UriKind.Absolute, out var address) && IsSafe(address) ? address : null)
            .FirstOrDefault(
            address => address is not null);
        return (server, Texts(metadata, "scopes_supported"));
    }

    private static async Task<Uri?> EndpointAsync(Uri server, SignInServices services, CancellationToken cancel)
    {
        try
        {
            var asked = AskedJob.Read(
                AskedJob.Text(
                    AskedAddress.TryParse(server.AbsoluteUri)!,
                    new AskedSignIn { Issuer = server.AbsoluteUri.TrimEnd('/'), ClientId = "none", Secret = "env:NONE" },
                    ""),
                services.Folder,
                services.Clock.GetUtcNow());
            return await new Endpoints(
                asked.Identities[AskedSignIn.Identity], services.Senders.For(), services.Requests, services.Redactor).TokenAsync(
                cancel);
        }
        catch (Exception error) when (error is RefusedException or JobMistakesException or TransportException)
        {
            return null;
        }
    }

    private static async Task<JsonElement?> ReadAsync(Uri place, Api api, SignInServices services, CancellationToken cancel)
    {
        try
        {
            using var answer = await services.Senders.For(api.Trust).SendAsync(
                new Request(HttpMethod.Get, place, [new("Accept", "application/json")]), new Patience(s_timeout, LargestAnswer), cancel);
            return answer.IsSuccess ? SampleRows.Parse(answer.Body.Content.ToArray()) : null;
        }
        catch (TransportException)
        {
            return null;
        }
    }

    private static List<string> Texts(JsonElement metadata, string name) =>
        metadata.TryGetProperty(name, out var values) && values.ValueKind == JsonValueKind.Array
            ? [.. values.EnumerateArray().Where(value => value.ValueKind == JsonValueKind.String).Select(value => value.GetString()!)]
            : [];

    private static bool IsSafe(Uri address) => address.Scheme == "https" || address is { Scheme: "http", IsLoopback: true };
}
