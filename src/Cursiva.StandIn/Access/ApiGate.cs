using System.Security.Cryptography;

namespace Cursiva.StandIn.Access;

/// <summary>What every API request passes first: the way there, the limits, planned failures and the bearer token.</summary>
public sealed class ApiGate(StandInOptions options, TokenDesk desk, Statistics statistics)
{
    private readonly Faults _faults = new(options);

    public async Task PassAsync(HttpContext context, RequestDelegate next)
    {
        if (!context.Request.Path.StartsWithSegments("/v2"))
        {
            await next(context);
            return;
        }

        // The way back is travelled before the first byte of the answer is sent: until then the request is under way.
        var left = false;
        statistics.Enter();
        context.Response.OnStarting(async () =>
        {
            await TravelAsync(context.RequestAborted);
            left = true;
            statistics.Leave();
        });
        try
        {
            await AnswerAsync(context, next);
        }
        finally
        {
            if (!left && context.RequestAborted.IsCancellationRequested)
                statistics.Leave();
        }
    }

    private async Task AnswerAsync(HttpContext context, RequestDelegate next)
    {
        await TravelAsync(context.RequestAborted);
        var (number, tooEarlyBy) = statistics.Arrive(context.Request.Path);
        try
        {
            if (tooEarlyBy > TimeSpan.Zero)
            {
                if (!options.Has("no-retry-after"))
                    context.Response.Headers.RetryAfter = Math.Max(1, (int)Math.Ceiling(tooEarlyBy.TotalSeconds)).ToString();
                await Problem.WriteAsync(context, 429, "too_many_requests", "the limit of this client is used up");
            }
            else if (options.FailEvery > 0 && number % options.FailEvery == 0)
            {
                await Problem.WriteAsync(context, 503, "unavailable", "this request fails on purpose");
            }
            else if (!context.Request.Path.StartsWithSegments("/v2/open")
                && WhyRefused(context.Request.Headers, context.Request.Path) is { } reason)
            {
                context.Response.Headers.WWWAuthenticate =
                    $"Bearer realm=\"brackwater\", error=\"invalid_token\", error_description=\"{reason}\"{(context.Request.Headers.Authorization.Count == 0 && !options.Has("no-metadata") ? $", resource_metadata=\"{context.Request.Scheme}://{context.Request.Host}{AuthorizationServer.ResourceMetadata}\"" : "")}";
                await Problem.WriteAsync(context, 401, "invalid_token", reason);
            }
            else if (!await _faults.SpoilAsync(context, number, next))
            {
                await next(context);
            }
        }
        finally
        {
            statistics.Answered(context.Response.StatusCode);
        }
    }

    private string? WhyRefused(IHeaderDictionary headers, PathString path)
    {
        if (options.Has("session-header"))
        {
            if (headers["X-Partner-Key"] != "partner-0001" || headers["X-Account"] != "4711")
                return "X-Partner-Key or X-Account is missing or wrong";
            return headers["X-Session"].ToString() is { Length: > 0 } session
                ? desk.WhyRefused(session, DateTimeOffset.UtcNow)
                : "no session was sent";
        }

        if (options.Has("api-key"))
            return headers["X-Api-Key"] == options.ClientSecret ? null : "the API key in X-Api-Key is wrong";
        var authorization = headers.Authorization.ToString();
        return authorization.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase)
            ? desk.WhyRefused(authorization[7..], DateTimeOffset.UtcNow, TenantOf(path))
            : "no bearer token was sent";
    }

    // Whose data a path is about.
    private static string? TenantOf(PathString path) => path.Value!.Split('/') is ["", "v2", "tenants", var tenant, ..] ? tenant : null;

    private async Task TravelAsync(CancellationToken cancel)
    {
        var latency = options.Latency.Now;
        if (latency <= TimeSpan.Zero && options.Jitter <= TimeSpan.Zero)
            return;

        var half = latency / 2;
        var jitter = options.Jitter / 2 * (RandomNumberGenerator.GetInt32(1001) / 1000.0);
        await Task.Delay(half + jitter, cancel);
    }
}
