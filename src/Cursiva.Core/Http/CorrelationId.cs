using System.Net.Http.Headers;

namespace Cursiva.Core.Http;

/// <summary>The id under which a server's people find a request in their log.</summary>
public static class CorrelationId
{
    private static readonly string[] s_names = ["X-Correlation-Id", "X-Request-Id", "Request-Id", "X-Trace-Id"];

    /// <summary>Header and id, for quoting; null when the answer has none.</summary>
    public static string? Of(HttpResponseHeaders headers)
    {
        foreach (var name in s_names)
        {
            if (headers.TryGetValues(name, out var values))
                return $"{name} {string.Join(' ', values)}";
        }

        return null;
    }
}
