using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Drafts;

/// <summary>Asks an API each question once: what was answered before is answered again without a request.</summary>
/// <param name="send">Sends a request.</param>
/// <param name="most">Most requests.</param>
internal sealed class AskOnce(Func<ApiRequest, CancellationToken, Task<Answer>> send, int most)
{
    private readonly Dictionary<string, KeptAnswer> _kept = new(StringComparer.Ordinal);
    private readonly Dictionary<string, RefusedException> _refused = new(StringComparer.Ordinal);

    /// <summary>Requests so far.</summary>
    public int Asked { get; private set; }

    /// <summary>Whether another request may be made.</summary>
    public bool IsSpent => Asked >= most;

    /// <summary>The answer that was given last.</summary>
    public KeptAnswer? Latest { get; private set; }

    /// <summary>Asks, or tells what was answered before.</summary>
    /// <exception cref="RequestsSpentException">No request is left.</exception>
    /// <exception cref="RefusedException">The API refused it.</exception>
    public async Task<Answer> SendAsync(ApiRequest request, CancellationToken cancel)
    {
        var key =
            $"{request.Method} {request.Uri.AbsoluteUri} {string.Join('\n', request.Headers.Select(header => $"{header.Key}: {header.Value}"))} {(request.Body is null ? "" : Encoding.UTF8.GetString(request.Body))}";
        if (_refused.TryGetValue(key, out var refusal))
            throw new RefusedException(refusal.Refusal, refusal);
        if (!_kept.TryGetValue(key, out var kept))
        {
            if (IsSpent)
                throw new RequestsSpentException();
            Asked++;
            try
            {
                using var answer = await send(request, cancel);
                _kept[key] = kept = KeptAnswer.Of(request.Uri, answer);
            }
            catch (RefusedException error)
            {
                _refused[key] = error;
                throw;
            }
        }

        Latest = kept;
        return kept.Again();
    }
}
