using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Apis;

/// <summary>Sends requests to one declared API: with its identity, headers, limits and retries, and to its origin only.</summary>
public sealed class ApiClient : IAsyncDisposable
{
    private readonly Api _api;
    private readonly DeclaredIdentity? _identity;
    private readonly ITokens? _tokens;
    private readonly HttpSender _sender;
    private readonly Limiter _limiter;
    private readonly Backoff _backoff;
    private readonly TimeProvider _clock;
    private readonly IRequestWatch _watch;

    /// <param name="identity">Whose limits are counted; null when nobody signs in.</param>
    public ApiClient(Api api, DeclaredIdentity? identity, ITokens? tokens, HttpSender sender, IState state, Backoff backoff, TimeProvider clock, IRequestWatch watch)
    {
        _api = api;
        _identity = identity;
        _tokens = tokens;
        _sender = sender;
        _backoff = backoff;
        _clock = clock;
        _watch = watch;
        SlotWindow[] windows = [.. api.Limits.Kept.Select(rate => new SlotWindow($"{api.Base.AbsoluteUri.TrimEnd('/')} {identity?.ClientId} {rate.Window.TotalSeconds:0.###}", rate.Count, rate.Window))];
        _limiter = new Limiter(state, windows, api.Timeout, clock, watch);
    }

    /// <summary>The address of a path of this API, with the query parameters that every request has.</summary>
    public Uri Address(string path) => ApiAddress.Of(_api, path);

    /// <summary>Refuses an address that leaves the API: credentials go to the origin alone that they were declared for (promise 4).</summary>
    /// <param name="page">The page that led there, when one did.</param>
    /// <exception cref="RefusedException">The address has another origin.</exception>
    public void CheckWithin(Uri address, Uri? page)
    {
        if (ApiAddress.IsWithin(_api, address))
            return;
        throw new RefusedException(new Refusal(Outcome.ApiFailed, $"a link leaves the API '{_api.Name}': {address.AbsoluteUri}")
        {
            Cause = $"credentials are sent to {ApiAddress.OriginOf(_api.Base)} alone, where they were declared for",
            NextStep = "if the API really moved, change base: in the job file",
            Request = page is null ? null : $"GET {page.AbsoluteUri}",
        });
    }

    /// <summary>Fetches an address of this API.</summary>
    /// <exception cref="RefusedException">The address leaves the API, or the API refused or failed after all attempts.</exception>
    public async Task<Answer> GetAsync(Uri address, CancellationToken cancel)
    {
        CheckWithin(address, null);
        var renewed = false;
        for (var attempt = 1; ; attempt++)
        {
            var slots = await _limiter.TakeAsync(cancel);
            AccessToken? token = null;
            var request = Build(address, token);
            Answer answer;
            try
            {
                // After the wait for a slot, which may be longer than what was left of the token.
                token = _tokens is null ? null : await _tokens.GetAsync(cancel);
                request = Build(address, token);
                answer = await _sender.SendAsync(request, _api.Timeout, _api.LargestPage, cancel);
            }
            catch (TransportException error)
            {
                if (attempt >= _api.Attempts || error.Trouble is Trouble.Tls or Trouble.NotUnderstood)
                    throw new RefusedException(Catalogue.Refuse(new Facts(Desk.Api, error.Trouble) { Words = error.ToString() }, $"API '{_api.Name}' gave no whole answer: {error.Message}", null, $"{request}, attempt {attempt}"), error);
                await WaitAsync(request, error.Message, attempt, _backoff.After(attempt), cancel);
                continue;
            }
            finally
            {
                _limiter.GiveBack(slots);
            }

            _watch.Answered(request, answer.Status, answer.Took);
            if (answer.IsSuccess && !answer.IsHtml)
                return answer;

            using (answer)
            {
                if (answer.Status == 401 && token is not null && !renewed)
                {
                    renewed = true;
                    _tokens!.Refused(token);
                    _watch.Retrying(request, "status 401, signing in again", attempt, TimeSpan.Zero);
                    continue;
                }

                if (!Passing(answer.Status) || attempt >= _api.Attempts)
                    throw new RefusedException(Refuse(answer, request, attempt, token));

                if (RetryAfter.Read(answer.Headers, _clock.GetUtcNow()) is { } asked)
                {
                    _watch.Retrying(request, $"status {answer.Status}", attempt, asked);
                    _limiter.Pause(asked);
                }
                else
                {
                    await WaitAsync(request, $"status {answer.Status}", attempt, _backoff.After(attempt), cancel);
                }
            }
        }
    }

    public ValueTask DisposeAsync() => _limiter.DisposeAsync();

    private Request Build(Uri address, AccessToken? token)
    {
        List<KeyValuePair<string, string>> headers = [new("Accept", "application/json"), .. _api.Headers];
        if (token is not null)
            headers.AddRange(token.Headers.Select(header => KeyValuePair.Create(header.Key, header.Value.Reveal())));
        return new Request(HttpMethod.Get, address, headers);
    }

    private async Task WaitAsync(Request request, string reason, int attempt, TimeSpan delay, CancellationToken cancel)
    {
        _watch.Retrying(request, reason, attempt, delay);
        await Task.Delay(delay, _clock, cancel);
    }

    private Refusal Refuse(Answer answer, Request request, int attempt, AccessToken? token) =>
        new ApiFacts(_api, _identity).Refuse(answer, $"{request}, status {answer.Status}, attempt {attempt}", token);

    // What may be different the next time (RFC 9110 sections 15.5.9 and 15.6, RFC 6585 section 4).
    private static bool Passing(int status) => status is 408 or 429 or 500 or 502 or 503 or 504;
}
