using System.Text;

namespace Cursiva.StandIn.Access;

/// <summary>Refuses on purpose, as servers do: at the sign-in or at the API, in one of the ways that have a name.</summary>
/// <param name="name">The way; null refuses nothing.</param>
public sealed class PlannedRefusal(string? name)
{
    private static readonly Dictionary<string, Way> s_ways = new(StringComparer.Ordinal)
    {
        // at the sign-in
        ["secret-ended"] = new(401, """{"error":"invalid_client","error_description":"the secret of this client ended on 1 March 2026"}"""),
        ["other-proof"] = new(
            401,
            """{"error":"invalid_client","error_description":"this client is registered for client_secret_post"}""")
        {
            Unless = context => !context.Request.Headers.ContainsKey("Authorization"),
        },
        ["not-approved"] = new(
            400,
            """{"error":"consent_required","error_description":"nobody has approved what this application asks for; see https://exchange.brackwater.example/approvals/brackwater-demo"}"""),
        ["client-off"] = new(
            401, """{"error":"unauthorized_client","error_description":"this application has been switched off by its owner"}"""),
        ["network-rule"] = new(
            403,
            """{"error":"access_denied","error_description":"sign-ins from this network address are blocked by the rule 'depots only'"}"""),
        ["sign-ins-limited"] = new(429, """{"error":"slow_down","error_description":"this client has signed in too often this hour"}""")
        {
            RetryAfter = "2400",
        },

        // at the API
        ["scope-missing"] = new(403, """{"message":"this path is for applications with another scope"}""")
        {
            OfApi = true,
            Challenge = "Bearer error=\"insufficient_scope\", scope=\"consignments.read.all\"",
        },
        ["api-off"] = new(
            403,
            """{"errors":[{"status":403,"detail":"the exchange API is not enabled for project 4711; enable it at https://exchange.brackwater.example/projects/4711"}]}""")
        { OfApi = true },
        ["no-licence"] = new(
            403,
            """{"type":"https://exchange.brackwater.example/problems/licence","title":"No licence","detail":"the organisation has no licence for the exports of this listing"}""")
        { OfApi = true, Type = "application/problem+json" },
        ["other-audience"] = new(401, """{"message":"the token was issued for another audience"}""")
        {
            OfApi = true,
            Challenge = "Bearer error=\"invalid_token\", error_description=\"the audience is not this API\"",
        },
        ["login-page"] = new(
            200,
            "<!doctype html><html><head><title>Sign in to the depot portal</title></head><body><form method=\"post\"><input type=\"password\"></form></body></html>")
        { OfApi = true, Type = "text/html; charset=utf-8" },
        ["maintenance"] = new(503, """{"message":"the exchange is being maintained until 06:00"}""") { OfApi = true, RetryAfter = "5400" },
    };

    private readonly Way? _way = name is null
        ? null
        : s_ways.GetValueOrDefault(name) ?? throw new ArgumentException(
            $"no refusal is called '{name}'; there are {string.Join(", ", s_ways.Keys)}");

    public async Task PassAsync(HttpContext context, RequestDelegate next)
    {
        var isMine = _way is { } planned
            && (planned.OfApi
                ? context.Request.Path.StartsWithSegments("/v2") && context.Request.Headers.ContainsKey("Authorization")
                : context.Request.Path.Value!.EndsWith("/oauth2/token", StringComparison.Ordinal))
            && planned.Unless?.Invoke(context) != true;
        if (!isMine)
        {
            await next(context);
            return;
        }

        context.Response.StatusCode = _way!.Status;
        context.Response.ContentType = _way.Type;
        if (_way.Challenge is { } challenge)
            context.Response.Headers.WWWAuthenticate = challenge;
        if (_way.RetryAfter is { } pause)
            context.Response.Headers.RetryAfter = pause;
        await context.Response.Body.WriteAsync(Encoding.UTF8.GetBytes(_way.Body), context.RequestAborted);
    }

    private sealed record Way(int Status, string Body)
    {
        public bool OfApi { get; init; }

        public string Type { get; init; } = "application/json";

        public string? Challenge { get; init; }

        public string? RetryAfter { get; init; }

        public Func<HttpContext, bool>? Unless { get; init; }
    }
}
