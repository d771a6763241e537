using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Apis;

/// <summary>Sends requests to one declared API: with its identity, headers, limits and retries, and to its origin only.</summary>
public sealed class ApiClient : IAsyncDisposable
{
    // Bytes a second at least, on the slowest way that a file is sent.
    private const double SlowestUpload = 50_000;

    private readonly Api _api;
    private readonly ApiAccess _access;
    private readonly Redactor _redactor;
    private readonly Passage _passage;
    private readonly Breaker _breaker;
    private readonly RetryBudget _retries = new();
    private readonly Backoff _backoff;
    private readonly TimeProvider _clock;
    private readonly IRequestWatch _watch;
    private readonly Budget _budget;

    /// <param name="budget">What the run may spend; null for any.</param>
    public ApiClient(Api api, ApiAccess access, IState state, Redactor redactor, Backoff backoff, TimeProvider clock, IRequestWatch watch, Budget? budget = null)
    {
        _api = api;
        _access = access;
        _redactor = redactor;
        _backoff = backoff;
        _clock = clock;
        _watch = watch;
        _budget = budget ?? Budget.Unlimited;
        _breaker = new Breaker(clock);
        _passage = new Passage(api, access, state, clock, watch, _budget);
    }

    /// <summary>The API's name in the job file.</summary>
    public string Name => _api.Name;

    /// <summary>The API, its base filled in.</summary>
    public Api Api => _api;

    /// <summary>Verifies what comes; null where nothing is signed.</summary>
    public SignatureDesk? Signatures => _access.Payloads?.Signatures;

    /// <summary>Places of the token endpoint's answer, by placeholder.</summary>
    public IReadOnlyDictionary<string, string> TokenFields => _access.TokenFields;

    /// <summary>The names of query parameters that are secrets: addresses are kept without them.</summary>
    public IEnumerable<string> SecretParameters => _access.Companions.SecretQuery.Select(parameter => parameter.Key);

    /// <summary>The address of a path of this API, with the query parameters that every request has.</summary>
    public Uri Address(string path) => ApiAddress.Of(_api, path);

    /// <summary>Refuses an address that leaves the API: credentials go to the origin alone that they were declared for (promise 4).</summary>
    /// <param name="page">The page that led there, when one did.</param>
    /// <exception cref="RefusedException">The address has an origin that is not declared.</exception>
    public void CheckWithin(Uri address, Uri? page)
    {
        if (ApiAddress.MayGo(_api, address) is not null)
            return;
        throw new RefusedException(ApiFacts.Leaves(_api, address, page));
    }

    /// <summary>The largest answer that is held in memory, in bytes.</summary>
    public long LargestPage => _api.LargestPage;

    /// <summary>The largest file, in bytes.</summary>
    public long LargestFile => _api.LargestFile;

    /// <summary>Makes sure that a pause is worth waiting for.</summary>
    /// <exception cref="RefusedException">It is longer than the job allows.</exception>
    public void CheckPause(TimeSpan pause) => _passage.CheckPause(pause);

    /// <summary>Fetches an address of this API.</summary>
    /// <exception cref="RefusedException">The address leaves the API, or the API refused or failed after all attempts.</exception>
    public Task<Answer> GetAsync(Uri address, CancellationToken cancel) => SendAsync(new ApiRequest(HttpMethod.Get, address), cancel);

    /// <summary>Sends a request to this API.</summary>
    /// <returns>A successful answer, or one that the request's caller deals with.</returns>
    /// <exception cref="RefusedException">The address leaves the API, or the API refused or failed after all attempts.</exception>
    public async Task<Answer> SendAsync(ApiRequest wanted, CancellationToken cancel)
    {
        CheckWithin(wanted.Uri, null);
        var exchange = new Exchange(wanted, ApiAddress.MayGo(_api, wanted.Uri) == true);
        while (true)
        {
            exchange.Attempt++;
            if (await TryAsync(exchange, cancel) is { } answer)
                return answer;
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await _passage.DisposeAsync();
        _access.Payloads?.Dispose();
        _breaker.Dispose();
    }

    // Null when the request has to be sent again.
    private async Task<Answer?> TryAsync(Exchange exchange, CancellationToken cancel)
    {
        using var trial = await _breaker.PassAsync(wait => Wait("the API to recover", wait), cancel);
        exchange.Request = Build(exchange, null);
        var entrance = await _passage.EnterAsync(exchange.Wanted.Uri, exchange.SignedIn, cancel);
        bool? pushedBack = null;
        Answer? answer = null;
        try
        {
            _budget.Spend();
            exchange.Token = entrance.Token;
            exchange.Request = Build(exchange, exchange.Token);
            if (Payloads(exchange) is { } payloadsOut)
                await payloadsOut.SealAsync(exchange, cancel);
            answer = await (exchange.SignedIn ? _access.Sender : _access.Bare).SendAsync(exchange.Request, new Patience(Time(exchange.Wanted), _api.LargestPage) { Idle = _api.IdleTimeout }, exchange.Wanted.Finishes ? CancellationToken.None : cancel);
            pushedBack = Retries.IsPassing(answer.Status);
        }
        catch (TransportException error)
        {
            entrance.Leave(pushedBack: true, null);
            entrance = null;
            _breaker.Failed();
            if (error.MayHaveArrived)
                _watch.Unanswered(exchange.Request);
            await FailedAsync(exchange, error, cancel);
            return null;
        }
        finally
        {
            if (answer?.Stream is not null)
                entrance!.LeaveWith(answer);
            else
                entrance?.Leave(pushedBack, answer?.Status);
        }

        _watch.Answered(exchange.Request, answer.Status, answer.Took);
        if (Retries.IsFailing(answer.Status))
        {
            _breaker.Failed();
        }
        else
        {
            _breaker.Succeeded();
            _retries.Succeeded();
        }

        if (Payloads(exchange) is { } payloads)
            (answer, exchange.KeyRefused) = await payloads.OpenAsync(answer, exchange, cancel);
        return await JudgeAsync(exchange, answer, cancel);
    }

    private PayloadDesk? Payloads(Exchange exchange) => exchange.SignedIn ? _access.Payloads : null;

    // What is sent takes time, too.
    private TimeSpan Time(ApiRequest wanted) => _api.Timeout + TimeSpan.FromSeconds((wanted.Parts?.Sum(part => part.Length) ?? 0) / SlowestUpload);

    private async Task FailedAsync(Exchange exchange, TransportException error, CancellationToken cancel)
    {
        var unsafeToRepeat = exchange.Wanted.Once && error.MayHaveArrived;
        if (unsafeToRepeat || exchange.Attempt >= _api.Attempts || _breaker.HasGivenUp(_api.Attempts) || error.Trouble is Trouble.Tls or Trouble.NotUnderstood || !_retries.TrySpend())
        {
            var facts = new Facts(Desk.Api, error.Trouble) { Words = error.ToString() };
            var refusal = Catalogue.Refuse(facts, $"API '{_api.Name}' gave no complete answer{InARow()}: {error.Message}", null, $"{exchange.Request}, attempt {exchange.Attempt}");
            throw new RefusedException(unsafeToRepeat ? ApiFacts.NotRepeated(refusal) : refusal, error);
        }

        await WaitAsync(exchange, error.Message, cancel);
    }

    private async Task<Answer?> JudgeAsync(Exchange exchange, Answer answer, CancellationToken cancel)
    {
        var asked = RetryAfter.Read(answer.Headers, _clock.GetUtcNow());
        if (answer.IsSuccess && !exchange.KeyRefused && (exchange.Wanted.Verbatim || !answer.IsHtml))
        {
            if (exchange.SignedIn && RateLimitHeader.Read(answer, _clock.GetUtcNow()) is { } used)
                await _passage.PauseAsync(exchange.Wanted.Uri, exchange.SignedIn, used, cancel);
            exchange.Wanted.Sees?.Invoke(answer);
            return answer;
        }

        // What was granted after a kept token was issued is in a fresh one only, so that a 403 under it says nothing yet.
        var mayRenew = exchange is { Token: { } sent, Renewed: false } && (answer.Status == 401 || exchange.KeyRefused || (answer.Status == 403 && sent.IsKept));
        if (exchange.KeyRefused && !mayRenew)
        {
            using (answer)
                throw new RefusedException(new ApiFacts(_api, _access.Identity, _redactor).KeyRefused(answer, $"{exchange.Request}, status {answer.Status}, attempt {exchange.Attempt}"));
        }

        if (!mayRenew && !Retries.IsPassing(answer.Status) && exchange.Wanted.Expects?.Invoke(answer) == true)
            return answer;

        // What passed with no attempt may be what the caller allows.
        var passes = mayRenew || MayPass(exchange, answer, asked);
        if (!passes && exchange.Wanted.Expects?.Invoke(answer) == true)
            return answer;

        using (answer)
        {
            if (mayRenew)
            {
                exchange.Renewed = true;
                _access.Tokens!.Refused(exchange.Token!);
                _watch.Retrying(exchange.Request, exchange.KeyRefused ? "the session key was refused, signing in again" : $"status {answer.Status}, signing in again", exchange.Attempt, TimeSpan.Zero);
                return null;
            }

            if (!passes)
            {
                exchange.Wanted.Sees?.Invoke(answer);
                var refusal = new ApiFacts(_api, _access.Identity, _redactor).Refuse(answer, $"{exchange.Request}, status {answer.Status}, attempt {exchange.Attempt}", exchange.Token);
                if (MayHaveArrived(exchange, answer.Status, asked))
                    refusal = ApiFacts.NotRepeated(refusal);
                throw new RefusedException(refusal with { What = refusal.What + InARow() });
            }

            asked ??= RateLimitHeader.Read(answer, _clock.GetUtcNow());
            if (asked is { } pause)
            {
                await _passage.PauseAsync(exchange.Wanted.Uri, exchange.SignedIn, pause, cancel);
                CheckPause(exchange, answer, pause);
                _budget.CheckWait(pause, "the pause that the API asked for");
                _watch.Retrying(exchange.Request, $"status {answer.Status}", exchange.Attempt, pause);
            }
            else
            {
                await WaitAsync(exchange, answer.IsSuccess ? "a web page" : $"status {answer.Status}", cancel);
            }

            return null;
        }
    }

    // The API's own words say whether a quota is used up, or it is being maintained.
    private void CheckPause(Exchange exchange, Answer answer, TimeSpan pause)
    {
        try
        {
            _passage.CheckPause(pause);
        }
        catch (RefusedException error)
        {
            var told = new ApiFacts(_api, _access.Identity, _redactor).Refuse(answer, $"{exchange.Request}, status {answer.Status}, attempt {exchange.Attempt}", exchange.Token);
            exchange.Wanted.Sees?.Invoke(answer);
            throw new RefusedException(error.Refusal with { Cause = told.Cause ?? error.Refusal.Cause, Quote = told.Quote, Request = told.Request, Diagnosis = told.Diagnosis, Status = answer.Status }, error);
        }
    }

    private bool MayPass(Exchange exchange, Answer answer, TimeSpan? asked)
    {
        if (answer.IsSuccess)
            return exchange.Attempt < Math.Min(Retries.WebPage, _api.Attempts) && _retries.TrySpend();
        if (!Retries.IsPassing(answer.Status) || MayHaveArrived(exchange, answer.Status, asked))
            return false;
        if (answer.Status == 429 || asked is not null)
            return exchange.Attempt < _api.Attempts * Retries.ThrottledFactor;
        return exchange.Attempt < _api.Attempts && !_breaker.HasGivenUp(_api.Attempts) && _retries.TrySpend();
    }

    // A gateway may have lost the answer alone. An API that says when to come again has not taken it.
    private static bool MayHaveArrived(Exchange exchange, int status, TimeSpan? asked) => exchange.Wanted.Once && status >= 500 && asked is null;

    private string InARow() => _breaker.HasGivenUp(_api.Attempts) ? $", like {_breaker.Failures} requests in a row, and was given up" : "";

    private Request Build(Exchange exchange, AccessToken? token)
    {
        var wanted = exchange.Wanted;
        List<KeyValuePair<string, string>> headers = [new("Accept", wanted.Accept), .. wanted.OwnHeaders];
        var request = new Request(wanted.Method, wanted.Uri, headers) { Streams = wanted.Streams, Verbatim = wanted.Verbatim, MayUseHttp2 = _api.MayUseHttp2 };
        if (!exchange.SignedIn)
            return request with { Body = wanted.Bare ? wanted.Body : null, Parts = wanted.Bare ? wanted.Parts : null, BodyType = wanted.BodyType }; // What the job declares is for the API alone.
        headers.AddRange(_access.Companions.Headers);
        headers.AddRange(wanted.Headers);
        if (token is not null)
            headers.AddRange(token.Headers.Select(header => KeyValuePair.Create(header.Key, header.Value.Reveal())));
        return request with { Body = wanted.Body, Parts = wanted.Parts, BodyType = wanted.BodyType, SecretQuery = [.. _access.Companions.SecretQuery, .. wanted.SecretQuery] };
    }

    private async Task WaitAsync(Exchange exchange, string reason, CancellationToken cancel)
    {
        var delay = _backoff.After(exchange.Attempt);
        _budget.CheckWait(delay, "the next attempt");
        _watch.Retrying(exchange.Request, reason, exchange.Attempt, delay);
        await Waits.DelayAsync(delay, _clock, cancel);
    }

    private void Wait(string reason, TimeSpan delay)
    {
        _budget.CheckWait(delay, reason);
        _watch.Waiting(reason, delay);
    }
}
