using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Encryption;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Apis;

/// <summary>Encrypts and signs what goes to an API, and verifies and opens what comes back, so that everybody else sees it plain.</summary>
/// <param name="warn">Is told of what does not verify and is kept.</param>
/// <param name="shown">Is told each step; null for nobody.</param>
public sealed class PayloadDesk(
    Api api, KeyRing keys, Redactor redactor, TimeProvider clock, Action<string> warn, Action<PayloadStep>? shown = null) : IDisposable
{
    private const int LongestError = 4000;
    private const int LongestRefusal = 64 * 1024;

    /// <summary>Verifies what is signed.</summary>
    public SignatureDesk Signatures { get; } = new(api, keys, clock, warn, shown);

    private BodyEncryption? Encryption => api.Encryption is { Cipher: not Ciphers.None } declared ? declared : null;

    /// <summary>Reads every key that will be needed, before any request is made.</summary>
    /// <exception cref="RefusedException">A key is missing, or none for its use.</exception>
    public async Task PrepareAsync(CancellationToken cancel)
    {
        if (Encryption is { Key: { } sealing })
            await keys.OnlyAsync(sealing, KeyUse.Encrypt, cancel);
        if (Encryption?.OpenWith is { } opening)
            await keys.ReadAsync(opening, KeyUse.Open, cancel);
        if (api.Signatures?.Requests is { } signing)
            await keys.OnlyAsync(signing.Key, KeyUse.Sign, cancel);
        if (api.Signatures?.Answers is { } verifying)
            await keys.ReadAsync(verifying.Key, KeyUse.Verify, cancel);
        await Signatures.PrepareAsync(cancel);
    }

    /// <summary>Encrypts and signs the request of an exchange, and notes when it is sent.</summary>
    internal async Task SealAsync(Exchange exchange, CancellationToken cancel)
    {
        exchange.Request = await SealAsync(exchange.Request, exchange.Token, cancel);
        exchange.Sent = clock.GetUtcNow();
    }

    /// <summary>The answer of an exchange, opened and verified, and whether it says that the session key has ended.</summary>
    /// <exception cref="RefusedException">It does not open or verify, or came in the clear. Of a request that must not be sent twice it is
    /// not known what it did.</exception>
    internal async Task<(Answer Answer, bool KeyRefused)> OpenAsync(Answer answer, Exchange exchange, CancellationToken cancel)
    {
        if (RefusesKey(answer))
            return (answer, true);
        try
        {
            return (await OpenAsync(answer, exchange.Request, exchange.Token, exchange.Sent, cancel), false);
        }
        catch (RefusedException error) when (
            exchange.Wanted.Once && answer.IsSuccess && error.Refusal.Quote?.Contains("error", StringComparison.OrdinalIgnoreCase) != true)
        {
            throw new RefusedException(error.Refusal with { MayHaveArrived = true }, error);
        }
    }

    /// <summary>The request as it is sent.</summary>
    /// <param name="token">The token with the session key; null without one.</param>
    /// <exception cref="RefusedException">It cannot be encrypted or signed.</exception>
    public async Task<Request> SealAsync(Request request, AccessToken? token, CancellationToken cancel)
    {
        // The digest of an answer is that of its content as it was sent.
        if (api.Signatures?.Answers?.Form == SignatureForms.Message)
            request = request with { Uncompressed = true };
        if (Encryption is null && api.Signatures?.Requests is null)
            return request;
        try
        {
            request = await InMemoryAsync(request, cancel);
            if (Encryption is { } declared && request.Body is { } body)
            {
                var key = declared.Key is { } source ? await keys.OnlyAsync(source, KeyUse.Encrypt, cancel) : SessionKeyOf(token);
                var (made, type) = SealedBody.Encrypt(body, declared, key, shown);
                request = request with { Body = made, BodyType = type };
            }

            return api.Signatures?.Requests is { } signing
                ? RequestSigning.Sign(request, signing, await keys.OnlyAsync(signing.Key, KeyUse.Sign, cancel), clock.GetUtcNow(), shown)
                : request;
        }
        catch (PayloadException error)
        {
            throw new RefusedException(new Refusal(
                Outcome.ApiFailed, $"a request to API '{api.Name}' could not be encrypted or signed: {error.Message}; nothing was sent")
            {
                NextStep = "compare encryption: and signatures: of the API with its documentation, and with the keys that they name",
                Step = "request",
                Request = request.ToString(),
            }, error);
        }
    }

    /// <summary>Whether an answer says that the session key has ended.</summary>
    public bool RefusesKey(Answer answer)
    {
        if (Encryption is not { RefusedWhen.Count: > 0 } declared || answer.Body.Length is 0 or > LongestRefusal)
            return false;
        try
        {
            foreach (var (at, values) in declared.RefusedWhen)
            {
                if (JsonFind.Text(answer.Body.Content, at) is { } found && (values.Contains(found) || values.Contains(Probe.Anything)))
                    return true;
            }
        }
        catch (JsonException)
        {
            // An answer that is not JSON says no such thing.
        }

        return false;
    }

    /// <summary>The answer as it was before it was encrypted or signed.</summary>
    /// <param name="request">The request as it was sent.</param>
    /// <param name="sent">When it was sent.</param>
    /// <exception cref="RefusedException">It does not open or verify, or came in the clear.</exception>
    public async Task<Answer> OpenAsync(Answer answer, Request request, AccessToken? token, DateTimeOffset sent, CancellationToken cancel)
    {
        if ((Encryption is null && api.Signatures?.Answers is null) || (answer.IsHtml && !request.Verbatim))
            return answer;
        try
        {
            answer = await InMemoryAsync(answer, token, cancel);

            // An answer without a body has no text that could be signed; an HTTP message always can be.
            var check = answer.IsSuccess && (
                answer.Status != 204 || api.Signatures?.Answers is { Form: SignatureForms.Message } or { Header: not null })
                ? api.Signatures?.Answers
                : null;
            if (answer.Body.Length == 0 && check is null)
                return answer;
            if (check?.Form == SignatureForms.Message)
                answer = await Signatures.VerifyMessageAsync(answer, request, check, sent, cancel);
            if (Encryption is { } declared && answer.Body.Length > 0)
                answer = await DecryptAsync(answer, declared, request, token, cancel);
            return check is null or { Form: SignatureForms.Message }
                ? answer
                : await Signatures.VerifyTextAsync(answer, request, check, cancel);
        }
        catch
        {
            answer.Dispose();
            throw;
        }
    }

    /// <inheritdoc/>
    public void Dispose() => keys.Dispose();

    private static ExchangeKey SessionKeyOf(AccessToken? token) => token?.SessionKey is { } session
        ? new ExchangeKey { Secret = session.Bytes, IsPrivate = true }
        : throw new PayloadException("there is no session key: the sign-in returned none");

    private async Task<Request> InMemoryAsync(Request request, CancellationToken cancel)
    {
        if (request.Parts is not { } parts)
            return request;
        if (parts.Sum(part => part.Length) is var length && length > api.LargestPage)
            throw new PayloadException(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"it has {length:N0} bytes, but a body to encrypt or sign must fit in memory: {api.LargestPage:N0} bytes, set by largest-page:"));
        using var body = new MemoryStream();
        foreach (var part in parts)
            await part.CopyToAsync(body, cancel);
        return request with { Parts = null, Body = body.ToArray() };
    }

    private async Task<Answer> InMemoryAsync(Answer answer, AccessToken? token, CancellationToken cancel)
    {
        if (answer.Stream is not { } stream)
            return answer;
        if (Encryption is { ByLine: true } declared)
        {
            var opening = await OpeningKeysAsync(declared, token, cancel);
            return answer.With(
                answer.Body,
                new OpenedLines(stream, line => Opened(line, declared, opening) ?? throw Clear(answer, declared, null), api.LargestPage),
                null);
        }

        var whole = new PageBuffer(64 * 1024);
        await whole.FillAsync(stream, api.LargestPage, () => { }, cancel);
        await stream.DisposeAsync();
        return answer.With(whole, null, null);
    }

    private async Task<Answer> DecryptAsync(
        Answer answer, BodyEncryption declared, Request request, AccessToken? token, CancellationToken cancel)
    {
        byte[]? plain;
        try
        {
            plain = Opened(answer.Body, declared, await OpeningKeysAsync(declared, token, cancel));
        }
        catch (RefusedException) when (!answer.IsSuccess)
        {
            // What the API said of the error is not to be had; that it refused is.
            return answer;
        }

        if (plain is null)
            return answer.IsSuccess ? throw Clear(answer, declared, request) : answer;
        var opened = answer.With(
            PageBuffer.Of(plain), request.Streams && answer.IsSuccess ? new MemoryStream(plain) : null, answer.VerifiedBy);
        answer.Dispose();
        return opened;
    }

    // All that does not open reads alike, and no second request is made of it (RFC 7516 section 11.5).
    private byte[]? Opened(PageBuffer answer, BodyEncryption declared, IReadOnlyList<ExchangeKey> opening) =>
        Opened(answer.Content, declared, opening);

    private byte[]? Opened(ReadOnlySpan<byte> answer, BodyEncryption declared, IReadOnlyList<ExchangeKey> opening)
    {
        try
        {
            return SealedBody.Decrypt(answer, declared, opening, shown);
        }
        catch (PayloadException error)
        {
            throw new RefusedException(new Refusal(
                Outcome.ApiFailed, $"the answer of API '{api.Name}' could not be opened: {error.Message}")
            {
                Cause = declared.Key is null && declared.OpenWith is null
                    ? "the API encrypted it under another session key than the sign-in's, or in another way"
                    : "the API encrypted it under another key than the job's, or in another way",
                NextStep =
                    "compare cipher:, answer-at: and the keys of encryption: with the API's documentation; the same request is not sent again",
                Step = "answer",
            }, error);
        }
    }

    private async Task<IReadOnlyList<ExchangeKey>> OpeningKeysAsync(BodyEncryption declared, AccessToken? token, CancellationToken cancel)
    {
        try
        {
            return declared.OpenWith is { } own
                ? await keys.ReadAsync(own, KeyUse.Open, cancel)
                : declared.Key is { } source ? await keys.ReadAsync(
                source, KeyUse.Open, cancel) : [SessionKeyOf(token)];
        }
        catch (PayloadException error)
        {
            throw new RefusedException(
                new Refusal(Outcome.ApiFailed, $"the answer of API '{api.Name}' could not be opened: {error.Message}")
                {
                    NextStep = "add encryption: { session-key: … } to the identity, or name the key under open-with:",
                },
                error);
        }
    }

    // What came in the clear and is not an error is not repeated: it should not have been seen on the way.
    private static bool SaysError(Answer answer)
    {
        var text = answer.Body.Text(LongestError);
        return answer.Body.Length <= LongestError
            && (text.Contains("error", StringComparison.OrdinalIgnoreCase)
                || text.Contains("message", StringComparison.OrdinalIgnoreCase)
                || text.Contains("fault", StringComparison.OrdinalIgnoreCase));
    }

    private RefusedException Clear(Answer answer, BodyEncryption declared, Request? request) =>
        new(new Refusal(
            Outcome.ApiFailed,
            $"API '{api.Name}' answered in the clear, with status {answer.Status}, and without {(declared.AnswerAt is { } at ? $"an encrypted text at {at.Text}" : "an encrypted text")}")
        {
            Cause = "errors are often sent in the clear, whatever their status",
            NextStep = "read the answer; if it means that the session key has expired, list it under refused-when: of encryption:",
            Quote = SaysError(answer) ? Quote.From(answer, redactor) : null,
            Step = "answer",
            Request = request?.ToString(),
            Status = answer.Status,
        });
}
