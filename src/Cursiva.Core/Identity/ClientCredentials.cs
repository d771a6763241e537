using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>
/// Tokens by the client credentials grant (RFC 6749 section 4.4). However many requests ask at once, one sign-in serves them all,
/// and the next token is fetched before the last one ends.
/// </summary>
public sealed class ClientCredentials : ITokens, IDisposable
{
    private static readonly TimeSpan s_timeout = TimeSpan.FromSeconds(60);
    private static readonly TimeSpan s_assumedLifetime = TimeSpan.FromMinutes(5);
    private static readonly TimeSpan s_largestMargin = TimeSpan.FromMinutes(2);
    private const int Attempts = 4;
    private const int LargestAnswer = 1024 * 1024;

    private readonly DeclaredIdentity _identity;
    private readonly SecretSources _secrets;
    private readonly Redactor _redactor;
    private readonly HttpSender _sender;
    private readonly Backoff _backoff;
    private readonly TimeProvider _clock;
    private readonly IRequestWatch _requests;
    private readonly ISignInWatch _watch;
    private readonly SemaphoreSlim _oneAtATime = new(1, 1);
    private volatile AccessToken? _current;

    public ClientCredentials(DeclaredIdentity identity, SecretSources secrets, Redactor redactor, HttpSender sender, Backoff backoff, TimeProvider clock, IRequestWatch requests, ISignInWatch watch)
    {
        _identity = identity;
        _secrets = secrets;
        _redactor = redactor;
        _sender = sender;
        _backoff = backoff;
        _clock = clock;
        _requests = requests;
        _watch = watch;
    }

    public async Task<AccessToken> GetAsync(CancellationToken cancel)
    {
        if (_current is { } good && _clock.GetUtcNow() < good.RenewAt)
            return good;

        await _oneAtATime.WaitAsync(cancel);
        try
        {
            if (_current is { } fresh && _clock.GetUtcNow() < fresh.RenewAt)
                return fresh;
            var token = await SignInAsync(cancel);
            _current = token;
            return token;
        }
        finally
        {
            _oneAtATime.Release();
        }
    }

    public void Refused(AccessToken token)
    {
        // Another request may have brought a newer one already, which stays.
        Interlocked.CompareExchange(ref _current, null, token);
    }

    public void Dispose() => _oneAtATime.Dispose();

    private async Task<AccessToken> SignInAsync(CancellationToken cancel)
    {
        var request = Build();
        for (var attempt = 1; ; attempt++)
        {
            // The lifetime counts from before the request: how long the answer took is not known to be short.
            var asked = _clock.GetUtcNow();
            try
            {
                using var answer = await _sender.SendAsync(request, s_timeout, LargestAnswer, cancel);
                _requests.Answered(request, answer.Status, answer.Took);
                if (answer.Status is not (429 or 500 or 502 or 503 or 504) || attempt == Attempts)
                    return Read(answer, request, attempt, asked);
                await WaitAsync(request, $"status {answer.Status}", attempt, RetryAfter.Read(answer.Headers, _clock.GetUtcNow()), cancel);
            }
            catch (TransportException error)
            {
                if (error.Trouble == Trouble.Tls || attempt == Attempts)
                    throw new RefusedException(Refuse(new Facts(Desk.SignIn, error.Trouble), $"the token endpoint gave no answer: {error.Message}", null, request, attempt), error);
                await WaitAsync(request, error.Message, attempt, null, cancel);
            }
        }
    }

    private async Task WaitAsync(Request request, string reason, int attempt, TimeSpan? asked, CancellationToken cancel)
    {
        var delay = asked ?? _backoff.After(attempt);
        _requests.Retrying(request, reason, attempt, delay);
        await Task.Delay(delay, _clock, cancel);
    }

    private Request Build()
    {
        var secret = _secrets.Read(_identity.Secret).Reveal();
        List<KeyValuePair<string, string>> headers = [new("Accept", "application/json")];
        List<KeyValuePair<string, string>> form = [new("grant_type", "client_credentials")];
        if (_identity.Scope.Count > 0)
            form.Add(new("scope", string.Join(' ', _identity.Scope)));

        if (_identity.ClientAuth == DeclaredIdentity.Post)
        {
            form.Add(new("client_id", _identity.ClientId));
            form.Add(new("client_secret", secret));
        }
        else
        {
            var basic = BasicCredentials.Write(_identity.ClientId, secret);
            _redactor.Remember(basic["Basic ".Length..]);
            headers.Add(new("Authorization", basic));
        }

        return new Request(HttpMethod.Post, _identity.TokenEndpoint!, headers, form);
    }

    private AccessToken Read(Answer answer, Request request, int attempt, DateTimeOffset asked)
    {
        var read = TokenAnswer.Read(answer.Body);
        if (!answer.IsSuccess)
        {
            var trouble = answer.Status is >= 300 and < 400 ? Trouble.Redirect : Trouble.Status;
            var quote = read.Error is null ? Quote.From(answer) : read.ErrorDescription is null ? read.Error : $"{read.Error}: {read.ErrorDescription}";
            throw new RefusedException(Refuse(new Facts(Desk.SignIn, trouble, answer.Status, read.Error), $"the token endpoint answered with status {answer.Status}", quote, request, attempt));
        }

        if (read.AccessToken is not { Length: > 0 } value)
        {
            var (trouble, what) = answer.IsHtml ? (Trouble.Html, "the token endpoint answered with a web page")
                : read.IsJson ? (Trouble.NotUnderstood, "the token endpoint's answer has no access_token")
                : (Trouble.NotUnderstood, "the token endpoint's answer is not JSON");
            throw new RefusedException(Refuse(new Facts(Desk.SignIn, trouble, answer.Status), what, Quote.From(answer), request, attempt));
        }

        var lifetime = read.ExpiresIn ?? s_assumedLifetime;
        var margin = lifetime / 10 < s_largestMargin ? lifetime / 10 : s_largestMargin;
        _watch.SignedIn(_identity.Name, lifetime);
        var type = read.TokenType is null || read.TokenType.Equals("bearer", StringComparison.OrdinalIgnoreCase) ? "Bearer" : read.TokenType;
        return new AccessToken(_redactor.Remember(value), type, asked + lifetime - margin);
    }

    private Refusal Refuse(Facts facts, string what, string? quote, Request request, int attempt) =>
        Catalogue.Refuse(facts, $"sign-in of identity '{_identity.Name}' failed: {what}", quote, $"{request}, attempt {attempt}");
}
