using Cursiva.Core.Http;

namespace Cursiva.Core.Drafts;

/// <summary>Keeps what an API says about signing in when it refuses somebody (RFC 9110 section 11.6.1).</summary>
/// <param name="other">Is told everything, too; null for nobody.</param>
public sealed class ChallengeWatch(IExchangeWatch? other) : IExchangeWatch
{
    /// <summary>The newest WWW-Authenticate header; null for none.</summary>
    public string? Challenge { get; private set; }

    /// <inheritdoc/>
    public void Answered(Request request, Answer answer, DateTimeOffset began)
    {
        if (answer.Status is 401 or 403 && answer.Header("WWW-Authenticate") is { Length: > 0 } challenge)
            Challenge = challenge;
        other?.Answered(request, answer, began);
    }

    /// <inheritdoc/>
    public void Failed(Request request, TransportException error, DateTimeOffset began, TimeSpan took) =>
        other?.Failed(request, error, began, took);
}
