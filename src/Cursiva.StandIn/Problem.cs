using System.Text.Json.Nodes;

namespace Cursiva.StandIn;

/// <summary>The shape in which the exchange refuses a request.</summary>
internal static class Problem
{
    public static Task WriteAsync(HttpContext context, int status, string code, string message)
    {
        context.Response.StatusCode = status;
        context.Response.Headers["X-Correlation-Id"] = context.TraceIdentifier;
        return JsonAnswer.WriteAsync(context, new JsonObject { ["code"] = code, ["message"] = message });
    }
}
