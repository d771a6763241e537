using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>
/// Sends requests to an authorization server as the client: with its proof, with retries, and with a diagnosis when refused.
/// </summary>
internal sealed class TokenEndpoint : IDisposable
{
    /// <summary>
    /// No exchange of a process that died goes on for longer than this: one request, and what a lease has left when it is renewed.
    /// </summary>
    public static readonly TimeSpan LongestExchange = TimeSpan.FromSeconds(90);

    private static readonly TimeSpan s_timeout = TimeSpan.FromSeconds(60);
    private static readonly TimeSpan s_longestPause = TimeSpan.FromMinutes(2);
    private static readonly TimeSpan s_longEnoughToTell = TimeSpan.FromSeconds(5);
    private const int LargestAnswer = 1024 * 1024;

    private readonly DeclaredIdentity _identity;
    private readonly SignInServices _services;
    private readonly HttpSender _sender;
    private ClientProof? _proof;
    private readonly SignInFacts _facts;
    private readonly KeyRing _keys;
    private readonly SignInSealing? _sealing;

    private TokenEndpoint(DeclaredIdentity identity, SignInServices services, SigningKey? key)
    {
        _identity = identity;
        _services = services;
        Key = key;
        _sender = services.Senders.For(identity.Trust, TlsCertificate(identity, key));
        Endpoints = new Endpoints(identity, _sender, services.Requests, services.Redactor);
        _facts = new SignInFacts(identity, services);
        _keys = new KeyRing(services, identity.Trust);
        _sealing = identity.Encryption is null
            ? null
            : new SignInSealing(identity, _keys, services.Redactor, services.Clock, services.Shown);
    }

    public SigningKey? Key { get; }

    public Endpoints Endpoints { get; }

    /// <exception cref="RefusedException">The identity's key cannot be read.</exception>
    public static async Task<TokenEndpoint> OpenAsync(DeclaredIdentity identity, SignInServices services, CancellationToken cancel)
    {
        var key = identity.Key is null ? null : await SigningKey.LoadAsync(identity.Key, services.Secrets, services.Folder, cancel);
        if (key is { Certificate: null } && identity.ClientAuth.Contains(ClientAuths.Tls))
        {
            throw new RefusedException(new Refusal(
                Outcome.SignInRefused, $"identity '{identity.Name}' has a key and no certificate, which {ClientAuths.Tls} shows")
            {
                NextStep = "name the certificate: private-key: { certificate: FILE }",
            });
        }

        return new TokenEndpoint(identity, services, key);
    }

    /// <summary>Asks for a token.</summary>
    /// <param name="parameters">Those of the grant.</param>
    /// <param name="sent">What was sent, for the diagnosis.</param>
    /// <param name="isShielded">Whether an exchange that has begun is finished before a stop; the waits between attempts never are.</param>
    public async Task<TokenReply> AskAsync(
        IReadOnlyList<KeyValuePair<string, string>> parameters, Circumstances sent, CancellationToken cancel, bool isShielded = false)
    {
        CheckCertificate();
        var endpoint = await Endpoints.TokenAsync(cancel);
        List<KeyValuePair<string, string>> all = [.. parameters];
        if (_identity.Scope.Count > 0 && (sent & (Circumstances.Redeeming | Circumstances.Polling)) == 0)
            all.Add(new("scope", string.Join(' ', _identity.Scope)));
        foreach (var (name, value) in _identity.TokenParameters)
            all.Add(new(name, (await _services.Secrets.ReadAsync(value, cancel)).Reveal()));
        return await SendAsync(endpoint, all, sent, cancel, isShielded, seals: true);
    }

    /// <summary>
    /// Sends a request to one of the server's endpoints. Where the job names several secrets, the next is tried when one is refused.
    /// </summary>
    public async Task<TokenReply> SendAsync(
        Uri endpoint,
        IReadOnlyList<KeyValuePair<string,
        string>> parameters,
        Circumstances sent,
        CancellationToken cancel,
        bool isShielded = false,
        bool seals = false)
    {
        CheckCertificate();
        _proof ??= new ClientProof(
            _identity,
            ClientProof.MethodsOf(_identity, _identity.MayLearnClientAuth ? await Endpoints.ClientAuthsAsync(cancel) : null),
            Key,
            _services.Redactor,
            _services.Clock);
        _facts.Methods = _proof.Methods;
        if (_identity.ClientAuth.Contains(ClientAuths.PrivateKeyJwt))
            sent |= Circumstances.Asserting;
        if (_identity.Secrets.Count == 0)
            return await SendAsync(endpoint, parameters, null, sent, isShielded, seals, cancel);

        TokenReply? reply = null;
        for (var i = 0; i < _identity.Secrets.Count; i++)
        {
            var source = _identity.Secrets[i];
            reply = await SendAsync(
                endpoint, parameters, await _services.Secrets.ReadAsync(source, cancel), sent, isShielded, seals, cancel);
            var isLast = i + 1 == _identity.Secrets.Count;
            if (reply.Error == "invalid_client" && !isLast)
            {
                _services.Watch.Warned(
                    $"identity '{_identity.Name}': the secret of {source} was refused ({Quote.Of(reply.Answer.ErrorDescription, _services.Redactor) ?? "invalid_client"}); the next one is tried");
                continue;
            }

            if (reply.Refusal is null && i > 0)
                _services.Watch.Warned(
                    $"identity '{_identity.Name}': the secret of {source} still works; put it first, or ask for a new one");
            return reply;
        }

        return reply!;
    }

    /// <summary>Is asked right before something leaves that is spent by it, at every attempt; null for nothing to ask.</summary>
    public Action? BeforeSpending { get; set; }

    public void Dispose()
    {
        Key?.Dispose();
        _keys.Dispose();
    }

    /// <summary>The certificate that TLS shows, where the identity proves itself so (RFC 8705).</summary>
    public static System.Security.Cryptography.X509Certificates.X509Certificate2? TlsCertificate(
        DeclaredIdentity identity, SigningKey? key) =>
        identity.ClientAuth.Contains(ClientAuths.Tls) ? key?.Certificate : null;

    private async Task<TokenReply> SendAsync(
        Uri endpoint,
        IReadOnlyList<KeyValuePair<string,
        string>> parameters,
        SecretText? secret,
        Circumstances sent,
        bool isShielded,
        bool seals,
        CancellationToken cancel)
    {
        // RFC 7523 section 3: whatever endpoint is asked, the token endpoint's address names the server.
        var audience = _identity.ClientAuth.Contains(ClientAuths.PrivateKeyJwt) ? await Endpoints.TokenAsync(cancel) : endpoint;
        for (var attempt = 1; ; attempt++)
        {
            // Every attempt has an assertion of its own: servers refuse one that they have seen.
            var (request, fresh) = await BuildAsync(endpoint, audience, parameters, secret, seals, cancel);
            var asked = _services.Clock.GetUtcNow();
            if (isShielded)
                BeforeSpending?.Invoke();
            try
            {
                using var answer = await _sender.SendAsync(
                    request, new Patience(s_timeout, LargestAnswer), isShielded ? CancellationToken.None : cancel);
                _services.Requests.Answered(request, answer.Status, answer.Took);
                if (!Retries.IsPassing(answer.Status)
                    || attempt == Retries.SignIn
                    || RetryAfter.Read(answer.Headers, _services.Clock.GetUtcNow()) > s_longestPause)
                    return Read(answer, request, attempt, asked, secret, sent, fresh);
                await WaitAsync(
                    request,
                    $"status {answer.Status}",
                    attempt,
                    RetryAfter.Read(answer.Headers, _services.Clock.GetUtcNow()),
                    cancel,
                    _facts.QuoteOf(answer, TokenAnswer.Read(answer.Body)));
            }
            catch (TransportException error)
            {
                if (error.MayHaveArrived)
                    _services.Requests.Unanswered(request);
                if (error.Trouble == Trouble.Tls || attempt == Retries.SignIn)
                    return new TokenReply(
                        new TokenAnswer((System.Text.Json.JsonElement?)null),
                        asked,
                        _facts.Refuse(error, request, attempt),
                        WasAnswered: false);
                await WaitAsync(request, error.Message, attempt, null, cancel);
            }
        }
    }

    // A server refuses it anyway, in words that are hard to read.
    private void CheckCertificate()
    {
        if (Key?.Certificate is not { } certificate || !_identity.ProvesByKey)
            return;
        var (from, until, now) = (
            certificate.NotBefore.ToUniversalTime(), certificate.NotAfter.ToUniversalTime(), _services.Clock.GetUtcNow());
        if (from <= now && now <= until)
            return;
        throw new RefusedException(new Refusal(
            Outcome.SignInRefused,
            string.Create(
                System.Globalization.CultureInfo.InvariantCulture,
                $"the certificate of identity '{_identity.Name}' {(now > until ? $"expired on {until:yyyy-MM-dd HH:mm}Z" : $"is not valid before {from:yyyy-MM-dd HH:mm}Z")}; nothing was sent"))
        {
            Cause = now > until ? "nobody replaced it in time" : string.Create(
                System.Globalization.CultureInfo.InvariantCulture,
                $"it becomes valid later, or this machine's clock is wrong: it says {now:yyyy-MM-dd HH:mm}Z"),
            NextStep = (now > until
                ? "make a new one with cursiva cert create, and register it"
                : "compare this machine's clock; or use the certificate that is valid now") + "; a server that knows only the key needs no certificate: name a file with only the private key under private:",
        });
    }

    // A fresh key for every attempt, too.
    private async Task<(Request Request, byte[]? FreshKey)> BuildAsync(
        Uri endpoint,
        Uri audience,
        IReadOnlyList<KeyValuePair<string,
        string>> parameters,
        SecretText? secret,
        bool seals,
        CancellationToken cancel)
    {
        List<KeyValuePair<string, string>> headers = [new("Accept", "application/json")];
        List<KeyValuePair<string, string>> all = [.. parameters];
        _proof!.Add(headers, all, audience, secret);
        foreach (var (name, value) in seals ? _identity.TokenHeaders : new Dictionary<string, DeclaredValue>())
            headers.Add(new(name, (await _services.Secrets.ReadAsync(value, cancel)).Reveal()));
        if (_sealing is null || !seals)
            return (new Request(HttpMethod.Post, endpoint, headers, all) { FormAsJson = _identity.TokenBodyIsJson }, null);
        var made = await _sealing.SealAsync(all, cancel);
        return (made.Parameters is { } encrypted
            ? new Request(HttpMethod.Post, endpoint, headers, encrypted) { FormAsJson = _identity.TokenBodyIsJson }
            : new Request(HttpMethod.Post, endpoint, headers) { Body = made.Body, BodyType = made.BodyType }, made.FreshKey);
    }

    private TokenReply Read(
        Answer answer, Request request, int attempt, DateTimeOffset asked, SecretText? secret, Circumstances sent, byte[]? fresh)
    {
        var read = TokenAnswer.Read(answer.Body);
        if (!read.IsJson && answer.IsSuccess && fresh is not null && _identity.Encryption is { AnswerAt.Segments.Count: 0 })
            read = _sealing!.OpenWhole(answer.Body.Content, fresh);
        var refusal = answer.IsSuccess && read.IsJson && read.Error is null
            ? null
            : _facts.Refuse(answer, read, request, attempt, secret, sent);
        if (refusal is not null && fresh is not null)
            refusal = SignInSealing.Hinted(refusal, _identity);
        var (opened, key) = refusal is null && _sealing is not null && HasToken(read) ? _sealing.Open(read, fresh) : (read, null);
        return new TokenReply(opened, asked, refusal, WasAnswered: true)
        {
            SessionKey = key,
            Request = $"{request}, status {answer.Status}, attempt {attempt}",
            ClockDifference = answer.Headers.Date - _services.Clock.GetUtcNow(),
        };
    }

    // What came in the clear without a token is an error that is told as such.
    private bool HasToken(TokenAnswer answer) =>
        answer.AccessToken(_identity.Presentation) is { Length: > 0 } || (
            _identity.Encryption?.AnswerAt is { } at && answer.At(at) is { Length: > 0 });

    private async Task WaitAsync(
        Request request, string reason, int attempt, TimeSpan? asked, CancellationToken cancel, string? words = null)
    {
        var delay = asked ?? _services.Backoff.After(attempt);
        _services.Budget.CheckWait(delay, "the authorization server");
        if (delay >= s_longEnoughToTell)
            _services.Watch.Warned(
                $"identity '{_identity.Name}': the authorization server is tried again in {Durations.ForPeople(delay)} ({reason}{(words is null ? "" : $", it said: {words}")})");
        _services.Requests.Retrying(request, reason, attempt, delay);
        await Waits.DelayAsync(delay, _services.Clock, cancel);
    }
}
