namespace Cursiva.StandIn;

/// <summary>The shape in which the exchange refuses a request.</summary>
internal static class Problem
{
    public static Task WriteAsync(HttpContext context, int status, string code, string message)
    {
        context.Response.StatusCode = status;
        context.Response.Headers["X-Correlation-Id"] = context.TraceIdentifier;
        return context.Response.WriteAsJsonAsync(new { code, message });
    }
}
