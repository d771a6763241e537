using System.Globalization;

namespace Cursiva.StandIn;

/// <summary>What goes wrong with every so many API requests: <c>--fault KIND/EVERY</c>.</summary>
public sealed class Faults(StandInOptions options)
{
    private readonly (string Kind, int Every)[] _planned = [.. options.Faults.Select(Parse)];

    /// <summary>Answers a request in a faulty way.</summary>
    /// <param name="number">Of the request, from 1.</param>
    /// <returns>Whether it did; otherwise the request is answered as usual.</returns>
    public async Task<bool> SpoilAsync(HttpContext context, long number, RequestDelegate next)
    {
        var kind = _planned.FirstOrDefault(fault => number % fault.Every == fault.Every - 1).Kind;
        switch (kind)
        {
            case null:
                return false;
            case "reset":
                context.Abort();
                return true;
            case "stall":
                await Task.Delay(Timeout.Infinite, context.RequestAborted).ContinueWith(_ => { }, TaskScheduler.Default);
                return true;
            case "html":
                await Odd.HtmlAsync(context, 200);
                return true;
            case "busy":
                context.Response.Headers.RetryAfter = DateTimeOffset.UtcNow.AddSeconds(1.5).ToString("R");
                await Problem.WriteAsync(context, 503, "busy", "come again at the time that Retry-After names");
                return true;
            case "slow-down":
                context.Response.Headers["RateLimit"] = "\"client\";r=0;t=1";
                await Problem.WriteAsync(context, 429, "slow_down", "too fast");
                return true;
            case "drip":
                await DripAsync(context, next);
                return true;
            default:
                await DamageAsync(context, next, kind);
                return true;
        }
    }

    // The right answer, damaged: "cut" ends the connection half way, "truncate" sends half of it as if it were whole, "gzip-damage"
    // spoils the compressed form.
    private static async Task DamageAsync(HttpContext context, RequestDelegate next, string kind)
    {
        var bytes = await WholeAsync(context, next);
        switch (kind)
        {
            case "truncate":
                context.Response.ContentLength = bytes.Length / 2;
                await context.Response.Body.WriteAsync(bytes.AsMemory(0, bytes.Length / 2));
                break;
            case "cut":
                context.Response.ContentLength = bytes.Length;
                await context.Response.Body.WriteAsync(bytes.AsMemory(0, bytes.Length / 2));
                await context.Response.Body.FlushAsync();
                context.Abort();
                break;
            default:
                throw new FormatException($"'{kind}' is not a fault");
        }
    }

    // Half of the answer, and then nothing for as long as the client waits.
    private static async Task DripAsync(HttpContext context, RequestDelegate next)
    {
        var bytes = await WholeAsync(context, next);
        context.Response.ContentLength = bytes.Length;
        await context.Response.Body.WriteAsync(bytes.AsMemory(0, bytes.Length / 2));
        await context.Response.Body.FlushAsync();
        await Task.Delay(Timeout.Infinite, context.RequestAborted).ContinueWith(_ => { }, TaskScheduler.Default);
    }

    private static async Task<byte[]> WholeAsync(HttpContext context, RequestDelegate next)
    {
        var body = context.Response.Body;
        using var whole = new MemoryStream();
        context.Response.Body = whole;
        await next(context);
        await context.Response.BodyWriter.FlushAsync();
        context.Response.Body = body;
        return whole.ToArray();
    }

    private static (string, int) Parse(string text)
    {
        var parts = text.Split('/');
        return parts.Length == 2 && int.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out var every) && every > 1
            ? (parts[0], every)
            : throw new FormatException($"'{text}' is not a fault; write KIND/EVERY, for example reset/7");
    }
}
