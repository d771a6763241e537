namespace Cursiva.Core.Http;

/// <summary>
/// What is retried, and how often. Numbers are attempts, the first one included. An API's own <c>attempts:</c> bounds them for its
/// requests;
/// what is on top of it, such as a page that cannot be read, is counted for itself.
/// </summary>
/// <remarks>How long the pauses are is <see cref="Backoff"/>'s, what retries may cost in all <see cref="RetryBudget"/>'s, and when an API
/// is given up <see cref="Breaker"/>'s.</remarks>
internal static class Retries
{
    /// <summary>A request to a token endpoint.</summary>
    public const int SignIn = 4;

    /// <summary>A web page with a status of success, such as that of a gateway.</summary>
    public const int WebPage = 3;

    /// <summary>A page that is not what the pull expects, and may be when it is fetched again.</summary>
    public const int OddPage = 3;

    /// <summary>A failure that <c>fail-when:</c> declares as worth another attempt.</summary>
    public const int DeclaredFailure = 4;

    /// <summary>A stream, or a part of an export, that broke off.</summary>
    public const int BrokenStream = 4;

    /// <summary>A look for an export whose submission got no answer; the submission itself is the first attempt.</summary>
    public const int LostSubmission = 4;

    /// <summary>A download that broke off; each attempt goes on where the one before ended.</summary>
    public const int BrokenDownload = 6;

    /// <summary>By how much more often than <c>attempts:</c> a request is sent that the API only asks to wait: nothing is broken.</summary>
    public const int ThrottledFactor = 5;

    /// <summary>Whether the answer may be different the next time (RFC 9110 sections 15.5.9 and 15.6, RFC 6585 section 4).</summary>
    public static bool IsPassing(int status) => status is 408 or 429 || IsFailing(status);

    /// <summary>Whether the server, or a gateway before it, is in trouble.</summary>
    public static bool IsFailing(int status) => status is 500 or 502 or 503 or 504;
}
