using System.Net.Http.Headers;

namespace Cursiva.Core.Http;

/// <summary>The pause that an answer asks for (RFC 9110 section 10.2.3).</summary>
public static class RetryAfter
{
    /// <summary>How long to wait, never negative; null when the answer does not say.</summary>
    public static TimeSpan? Read(HttpResponseHeaders headers, DateTimeOffset now)
    {
        if (headers.RetryAfter?.Delta is { } delta)
            return delta;
        if (headers.RetryAfter?.Date is { } date)
            return date > now ? date - now : TimeSpan.Zero;
        return null;
    }
}
